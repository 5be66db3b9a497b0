"""The source check."""
