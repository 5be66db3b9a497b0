"""All jobs: listed, learned from, and what was done to one."""
