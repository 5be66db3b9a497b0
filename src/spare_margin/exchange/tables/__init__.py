"""Tables and readings as CSV: in and out."""
