"""A meter that is none: it reads a craft that is solved, and answers as a meter on a bench does."""
