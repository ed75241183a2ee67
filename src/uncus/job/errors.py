"""What can go wrong with a job, each as one sentence for the user."""


class JobError(Exception):
    """The message is one sentence: what is wrong, with what, and what to do."""
