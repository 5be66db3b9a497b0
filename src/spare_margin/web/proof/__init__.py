"""The proof of a repair, as the API gives it."""
