"""What no circuit that agrees with the readings can escape: bounds, and the one conclusion they come to."""
