"""Records of the core as parts of a job file: the keys of their fields, and what a file leaves out."""

from typing import Any

from pydantic import BaseModel, ConfigDict

from spare_margin.core.model.plain import plain

KEYS = {"start": "from", "end": "to", "back": "return", "load_ohm": "resistance_ohm"}
"""Fields that a file has another word for: the first three are no names in Python, or were taken."""
SAID_ANYWAY = frozenset(
    (
        "access", "accuracy", "ambient_c", "duty", "finish", "kind", "leads_ohm", "ohm", "quantity",
        "segments", "sources", "state", "strokes", "temperature_model",
    )
)  # fmt: skip
"""Fields that are written even where they are as they are without a word."""


def key_of(field: str) -> str:
    """The file's key for a field of a record."""
    return KEYS.get(field, field)


STRICT = ConfigDict(
    extra="forbid",
    strict=True,
    allow_inf_nan=False,
    populate_by_name=True,
    frozen=True,
    alias_generator=key_of,
)
"""Unknown keys and numbers in quotes are errors; so are NaN and infinities. Records within share it."""


class FileModel(BaseModel):
    """A part of a file that is no record of the core by itself."""

    model_config = STRICT


def document_of(record: Any) -> dict[str, Any]:
    """A record as the part of a file that reads back as the same record."""
    return plain(record, SAID_ANYWAY, KEYS)
