"""The run sheet: one run of one job; its readings."""
