"""The database as a file: opened, one program at a time, brought up to date, copied."""
