"""The sample job, and frames of any size for measuring."""
