"""Logs of meters, as the API takes and gives them."""
