"""Practice: the bay, its debrief, lessons, progress, sets for a group."""
