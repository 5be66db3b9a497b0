"""What the estimate says of anything not read: the craft as measured, what to read next."""
