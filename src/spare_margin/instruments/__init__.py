"""Meters, and the stand-ins that read a network as a meter would."""
