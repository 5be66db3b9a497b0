"""Copies of all jobs, as the settings show them."""
