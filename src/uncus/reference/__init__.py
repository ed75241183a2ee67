"""What others drew: read, checked, and made into records of ours."""
