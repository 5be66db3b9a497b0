"""The proof of a repair: gathered, signed, handed over."""
