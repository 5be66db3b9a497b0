"""Repairs, upgrades and sizes, offered and taken."""
