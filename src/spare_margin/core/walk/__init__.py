"""One measurement after the other: its order, its manners, what is out of bounds."""
