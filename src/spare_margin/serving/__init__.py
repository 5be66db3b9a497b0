"""The application answering on this machine's addresses."""
