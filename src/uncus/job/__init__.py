"""The truth: records, the job that holds them, its file."""
