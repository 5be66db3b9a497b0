"""The upgrade bench: repairs and upgrades of a run as whole wirings, compared, ordered."""
