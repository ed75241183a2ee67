"""What can go wrong with a job, each as one sentence for the user."""

from uncus.words import Sentence


class JobError(Sentence):
    """The message is one sentence: what is wrong, with what, and what to do."""


class Damaged(JobError):
    """A job file that cannot be read; it was left as it is."""


class InUse(JobError):
    """A job that another Uncus has open; it can be read meanwhile."""
