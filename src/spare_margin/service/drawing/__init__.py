"""Drawing up: jobs from nothing, runs from their lines, scenarios, stretches split, single figures."""
