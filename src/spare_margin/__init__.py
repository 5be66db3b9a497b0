"""Spare Margin: how many volts each piece of a loaded circuit may lose, and whether it does."""

import os

# The matrices are small: several threads of linear algebra only wait for one another.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.10.0"
