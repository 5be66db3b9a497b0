"""Sizes for the conductors of a craft: the least copper or price that keeps every ceiling, proven."""
