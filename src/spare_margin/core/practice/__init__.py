"""Practice on circuits that lie: exercises with a truth of their own, what is done there, what it told."""
