"""The door to the local network: who is let in, and how it is opened."""
