"""What was read and what it says, in words."""
