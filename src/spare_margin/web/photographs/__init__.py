"""Photographs of a job: added, shown, written under, deleted."""
