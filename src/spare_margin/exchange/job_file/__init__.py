"""The job file, version 1: in and out."""
