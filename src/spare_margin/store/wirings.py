"""The wiring of a revision as it is kept: one JSON document, by the names of the records' fields."""

import json
from typing import Any

from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Size,
    Source,
    SourceState,
    TestPoint,
)
from spare_margin.core.model.plain import plain


def written(craft: Craft) -> str:
    """A wiring as it is kept; `read` gives it back."""
    return json.dumps(plain(craft, ("kind",)), separators=(",", ":"))


def read(text: str) -> Craft:
    """The wiring that `written` made a text of."""
    kept = json.loads(text)
    return Craft(
        **{key: kept[key] for key in ("kind", "nominal_v", "polarity", "reference")},
        points=tuple(TestPoint(**each) for each in kept["points"]),
        sources=tuple(Source(**each) for each in kept["sources"]),
        pieces=tuple(map(_piece, kept["pieces"])),
        loads=tuple(Load(**each) for each in kept["loads"]),
        scenarios=tuple(map(_scenario, kept["scenarios"])),
    )


def _piece(kept: dict[str, Any]) -> AnyPiece:
    if kept["kind"] != "conductor":
        return FixedPiece(**kept)
    size = kept.get("size")
    return Conductor(**kept | {"size": size and Size(**size)})


def _scenario(kept: dict[str, Any]) -> Scenario:
    states = {key: SourceState(**each) for key, each in kept.get("sources", {}).items()}
    sets = {key: frozenset(kept.get(key, ())) for key in ("on", "starting")}
    return Scenario(**kept | sets | {"sources": states})
