"""What is kept and what was learned, in words."""
