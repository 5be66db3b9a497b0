"""Open formats in and out: the job file, and the numbers people type."""
