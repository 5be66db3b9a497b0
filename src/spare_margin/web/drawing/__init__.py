"""Drawing up: jobs from nothing, run lines, columns, scenarios."""
