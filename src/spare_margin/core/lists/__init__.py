"""What a planner leaves with: a list to wire from and a list to buy from."""
