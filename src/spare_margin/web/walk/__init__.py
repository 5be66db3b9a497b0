"""The walk: one measurement at a time."""
