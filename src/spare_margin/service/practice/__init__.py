"""Practice: attempts at exercises, exercises from one's own jobs, sets for a group."""
