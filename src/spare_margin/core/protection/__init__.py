"""Fuses and breakers against what they protect, what they carry, and what they must not do."""
