"""Readings for tests, with what every one of them has."""

from typing import Any

from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.meters import WORKSHOP_METER


def reading(red: str, black: str, value: float | None, **more: Any) -> Reading:
    """A reading of volts with the workshop's meter in the scenario `on`."""
    accuracy = WORKSHOP_METER.accuracy(value) if value is not None else 0.0
    made: dict[str, Any] = {
        "id": f"{red}-{black}-{value}-{more.get('quantity', 'volts')}-{more.get('moment')}",
        "revision": "as-found", "quantity": "volts", "typed": str(value), "accuracy": accuracy,
        "state": "value" if value is not None else "wandering", "scenario": "on",
        "taken_at": "2026-05-01T08:00:00Z",
    }  # fmt: skip
    return Reading(**{**made, "red": red, "black": black, "value": value, **more})
