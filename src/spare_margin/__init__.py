"""Spare Margin: how many volts each piece of a loaded circuit may lose, and whether it does."""

__version__ = "0.1.0"
