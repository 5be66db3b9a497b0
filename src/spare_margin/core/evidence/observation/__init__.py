"""What was read, as observations of the craft under the conditions of their moments."""
