"""The start page: jobs that were open lately, new ones, the sample."""
