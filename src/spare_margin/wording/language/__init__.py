"""Quantities as text: units, digits, the decimal mark."""
