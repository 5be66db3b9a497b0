"""What a craft, a job and the tables are: plain values."""
