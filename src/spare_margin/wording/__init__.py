"""Codes and quantities become words here, in the workshop's units; nowhere else."""
