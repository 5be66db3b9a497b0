"""What is drawn and budgeted, in words."""
