"""The tables, shipped and the workshop's own; the settings."""
