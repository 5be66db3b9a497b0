"""The upgrade bench and the work order."""
