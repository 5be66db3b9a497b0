"""The meters that speak, over the API."""
