"""Recordings of meters for a job, over the API."""
