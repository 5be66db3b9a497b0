"""The web application: a JSON API under /api/v1, and the pages that use it."""
