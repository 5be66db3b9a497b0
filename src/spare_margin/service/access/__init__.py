"""Who may come in over the local network."""
