"""Readings as CSV, in: `red,black,volts,accuracy_v,source_v`, as the command line takes them."""

import csv
import io
import math
from collections.abc import Collection

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Reading

HEAD = ("red", "black", "volts", "accuracy_v", "source_v")
MOST_V = 1000.0


def read_readings(raw: bytes, points: Collection[str], scenario: str) -> list[Reading]:
    """The readings of a CSV file; `source_v` may be empty. JobError (path: line and column)."""
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise JobError("line 1", "is not UTF-8 text", ",".join(HEAD)) from None
    reader = csv.reader(io.StringIO(text), strict=True)
    try:
        rows = [(reader.line_num, row) for row in reader if any(c.strip() for c in row)]
    except csv.Error as trouble:
        raise JobError(f"line {reader.line_num}", str(trouble), ",".join(HEAD)) from None
    if not rows or [c.strip() for c in rows[0][1]] != list(HEAD):
        raise JobError("line 1", "is not the head line", ",".join(HEAD))
    return [_reading(line, row, points, scenario) for line, row in rows[1:]]


def _reading(line: int, row: list[str], points: Collection[str], scenario: str) -> Reading:
    if len(row) != len(HEAD):
        raise JobError(f"line {line}", f"has {len(row)} cells", f"{len(HEAD)}, as the head line")
    red, black = row[0].strip(), row[1].strip()
    for column, point in (("red", red), ("black", black)):
        if point not in points:
            raise JobError(f"line {line}, {column}", f"there is no {point}", "an id from nodes")
    if red == black:
        raise JobError(f"line {line}, black", "both leads are on the same point", "two points")
    source = row[4].strip()
    return Reading(
        id=f"line-{line}",
        revision="",
        quantity="volts",
        red=red,
        black=black,
        value=_number(line, "volts", row[2], -MOST_V),
        state="value",
        typed=row[2].strip(),
        accuracy=_number(line, "accuracy_v", row[3], 0.0),
        scenario=scenario,
        taken_at="",
        source_v=_number(line, "source_v", source, 0.0) if source else None,
    )


def _number(line: int, column: str, text: str, least: float) -> float:
    accepted = f"a number from {least:g} to {MOST_V:g}"
    try:
        value = float(text)
    except ValueError:
        raise JobError(f"line {line}, {column}", f"{text!r} is not a number", accepted) from None
    if not (math.isfinite(value) and least <= value <= MOST_V):
        raise JobError(f"line {line}, {column}", f"{text} is out of bounds", accepted)
    return value
