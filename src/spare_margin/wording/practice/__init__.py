"""What practice says: complaints, what acts showed, debriefs, lessons, how a learner stands."""
