"""The list of jobs: shown, brought in, taken out, put away."""
