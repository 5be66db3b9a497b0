"""The session of a job: opened in one snapshot, solved once, changed in one transaction."""
