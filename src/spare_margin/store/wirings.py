"""The wiring of a revision: the one place where rows become a craft, and a craft rows."""

import json
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from spare_margin.core.columns import exchanged
from spare_margin.core.model.pieces import (
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

POINT = ("id", "name", "access")
SOURCE = ("id", "name", "live", "back", "open_circuit_v", "internal_ohm", "battery",
          "capacity_ah")  # fmt: skip
PIECE = (
    "id",
    "kind",
    "name",
    "start",
    "end",
    "side",
    "resistance_ohm",
    "open",
    "repair",
    "length_m",
    "size_system",
    "size_value",
    "size_finish",
    "ohm_per_m",
    "insulation_c",
    "temperature_c",
    "style",
    "rating_a",
    "pinned_v",
    "engine_space",
    "bundle",
    "unsupported",
    "cable",
)
LOAD = (
    "id",
    "name",
    "start",
    "end",
    "behaviour",
    "current_a",
    "load_ohm",
    "power_w",
    "rated_v",
    "start_multiple",
    "least_v",
    "duty",
    "critical",
)
SCENARIO = ("id", "name", "ambient_c", "temperature_model", "on", "sources", "starting",
            "engine_c", "contacts")  # fmt: skip


MOST_APART = 100
"""Where more things than this differ, all are written anew."""


def write_wiring(
    connection: sqlite3.Connection,
    job: str,
    revision: str,
    craft: Craft,
    before: tuple[str, Craft] | None = None,
) -> None:
    """Write the rows of a revision that has none yet.

    `before` is a revision that is kept, by its id, with its wiring: what stands there too is copied
    where it lies, which takes a third of the time.
    """
    groups: tuple[tuple[str, Sequence[str], str, Callable[[Any], Sequence[Any]]], ...] = (
        ("point", POINT, "points", lambda p: [getattr(p, c) for c in POINT]),
        ("source", SOURCE, "sources", lambda s: [getattr(s, c) for c in SOURCE]),
        ("piece", PIECE, "pieces", _piece_row),
        ("load", LOAD, "loads", lambda load: [_unsaid(getattr(load, c), c) for c in LOAD]),
        ("scenario", SCENARIO, "scenarios", _scenario_row),
    )
    for table, columns, group, row in groups:
        things = getattr(craft, group)
        anew: Sequence[int] = range(len(things))
        if before is not None and len(getattr(before[1], group)) == len(things):
            changed = [i for i, _, _ in exchanged(getattr(before[1], group), things)]
            if len(changed) <= MOST_APART:
                anew = changed
                _copy(connection, table, columns, job, (before[0], revision), anew)
        _insert(connection, table, columns, job, revision, ((i, row(things[i])) for i in anew))


def _copy(
    connection: sqlite3.Connection,
    table: str,
    columns: Sequence[str],
    job: str,
    revisions: tuple[str, str],
    but: Sequence[int],
) -> None:
    """Copy the rows of one revision for another, but for those at some places."""
    names = ", ".join(f'"{c}"' for c in columns)
    connection.execute(
        f"INSERT INTO {table} (job_id, revision_id, place, {names})"
        f" SELECT job_id, ?, place, {names} FROM {table}"
        f" WHERE job_id = ? AND revision_id = ? AND place NOT IN ({', '.join('?' * len(but))})",
        (revisions[1], job, revisions[0], *but),
    )


def _unsaid(value: Any, column: str) -> Any:
    """A load of which nobody knows what it draws has no behaviour: an empty text in the table."""
    return value or "" if column == "behaviour" else value


def _insert(
    connection: sqlite3.Connection,
    table: str,
    columns: Sequence[str],
    job: str,
    revision: str,
    rows: Iterable[tuple[int, Sequence[Any]]],
) -> None:
    """Write rows, each with its place."""
    names = ", ".join(f'"{c}"' for c in columns)
    marks = ", ".join("?" * (len(columns) + 3))
    connection.executemany(
        f"INSERT INTO {table} (job_id, revision_id, place, {names}) VALUES ({marks})",
        ([job, revision, place, *row] for place, row in rows),
    )


def _piece_row(piece: Conductor | FixedPiece) -> list[Any]:
    row = {c: getattr(piece, c, None) for c in PIECE}
    row["open"] = int(piece.open)
    row["engine_space"] = int(getattr(piece, "engine_space", False))
    row["unsupported"] = int(getattr(piece, "unsupported", False))
    row["bundle"], row["cable"] = getattr(piece, "bundle", 1), getattr(piece, "cable", "")
    if isinstance(piece, Conductor):
        row["kind"] = "conductor"
        if piece.size is not None:
            row["size_system"], row["size_value"] = piece.size.system, piece.size.value
            row["size_finish"] = piece.size.finish
    return list(row.values())


def _scenario_row(scenario: Scenario) -> list[Any]:
    sources = {k: [s.open_circuit_v, s.internal_ohm] for k, s in scenario.sources.items()}
    return [
        scenario.id,
        scenario.name,
        scenario.ambient_c,
        scenario.temperature_model,
        json.dumps(sorted(scenario.on)),
        json.dumps(sources),
        json.dumps(sorted(scenario.starting)),
        scenario.engine_c,
        json.dumps(dict(scenario.contacts)),
    ]


def read_wiring(connection: sqlite3.Connection, job: str, revision: sqlite3.Row) -> Craft:
    """The craft of a row of `revision`."""

    def rows(table: str, columns: Sequence[str]) -> list[dict[str, Any]]:
        names = ", ".join(f'"{c}"' for c in columns)
        found = connection.execute(
            f"SELECT {names} FROM {table} WHERE job_id = ? AND revision_id = ? ORDER BY place",
            (job, revision["id"]),
        )
        return [dict(row) for row in found]

    return Craft(
        kind=revision["kind"],
        nominal_v=revision["nominal_v"],
        polarity=revision["polarity"],
        reference=revision["reference"],
        points=tuple(TestPoint(**r) for r in rows("point", POINT)),
        sources=tuple(Source(**r) for r in rows("source", SOURCE)),
        pieces=tuple(map(_piece, rows("piece", PIECE))),
        loads=tuple(
            Load(**{**r, "critical": bool(r["critical"]), "behaviour": r["behaviour"] or None})
            for r in rows("load", LOAD)
        ),
        scenarios=tuple(map(_scenario, rows("scenario", SCENARIO))),
    )


def _piece(row: dict[str, Any]) -> Conductor | FixedPiece:
    shared = {
        c: row[c]
        for c in ("id", "name", "start", "end", "side", "resistance_ohm", "repair", "pinned_v")
    }
    shared["open"] = bool(row["open"])
    if row["kind"] != "conductor":
        return FixedPiece(**shared, kind=row["kind"], style=row["style"], rating_a=row["rating_a"])
    size = None
    if row["size_value"] is not None:
        size = Size(row["size_system"], row["size_value"], row["size_finish"])
    numbers = ("length_m", "ohm_per_m", "insulation_c", "temperature_c", "bundle", "cable")
    own = {c: row[c] for c in numbers}
    return Conductor(
        **shared,
        **own,
        engine_space=bool(row["engine_space"]),
        unsupported=bool(row["unsupported"]),
        size=size,
    )


def _scenario(row: dict[str, Any]) -> Scenario:
    sources = {key: SourceState(*state) for key, state in json.loads(row["sources"]).items()}
    sets = {key: frozenset(json.loads(row[key])) for key in ("on", "starting")}
    contacts = json.loads(row["contacts"])
    return Scenario(**{**row, **sets, "sources": sources, "contacts": contacts})
