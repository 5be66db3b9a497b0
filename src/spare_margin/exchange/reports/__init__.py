"""Reports on paper: the hand-over sheet as PDF, lists as CSV."""
