"""What is said of a run by the estimate: verdicts, the craft as measured, what to read next."""
