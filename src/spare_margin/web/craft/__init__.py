"""The craft as a whole; one run under other limits; small what-ifs."""
