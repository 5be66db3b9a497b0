"""What readings, sources and stand-in loads say."""
