"""The shipped reference tables and demo jobs."""
