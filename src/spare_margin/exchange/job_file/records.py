"""Records of the core as parts of a job file: the keys of their fields, and what a file leaves out."""

from collections.abc import Mapping
from dataclasses import MISSING, fields, is_dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict

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
    out = {}
    for each in fields(record):
        value = getattr(record, each.name)
        if each.name in SAID_ANYWAY or value != _default(each):
            out[key_of(each.name)] = _plain(value)
    return out


def _default(field: Any) -> Any:
    return field.default if field.default_factory is MISSING else field.default_factory()


def _plain(value: Any) -> Any:
    if is_dataclass(value):
        return document_of(value)
    if isinstance(value, Mapping):
        return {key: _plain(each) for key, each in value.items()}
    if isinstance(value, tuple | frozenset):
        return [_plain(each) for each in value]
    return value
