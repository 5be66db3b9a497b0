"""Proof of a repair: what is read again, how alike the conditions are, what holds and what does not."""
