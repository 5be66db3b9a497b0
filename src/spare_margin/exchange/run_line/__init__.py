"""A run as one line of text: in and out."""
