"""The session of a job: opened, solved, judged, changed."""
