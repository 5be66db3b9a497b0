"""What several areas of the interface take and give."""
