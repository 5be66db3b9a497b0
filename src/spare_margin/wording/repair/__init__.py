"""Repairs, upgrades and their proof, in words."""
