"""Readings, trials, stand-in loads and logs, as they are taken."""
