"""Logs of meters as CSV: how a file is laid out is guessed, can be corrected, and then it is read.

A file is read in pieces, so that its size costs no more memory than its numbers.
"""

import csv
import re
import warnings
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC
from itertools import pairwise
from typing import IO, TYPE_CHECKING, Annotated, Any, Literal

import numpy as np
from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from spare_margin.core.errors import JobError
from spare_margin.core.measure.meter_logs import Channel, MeterLog
from spare_margin.core.model.jobs import LogQuantity
from spare_margin.exchange.tables.safe_cells import safe

if TYPE_CHECKING:  # pandas takes a quarter of a second to load, and only logs need it
    import pandas as pd

MOST_ROWS = 5_000_000
MOST_CHANNELS = 8
CHUNK = 200_000
LOOKED_AT = 64_000
"""So many bytes from the start are looked at to see how a file is laid out."""
NEARLY_ALL = 0.8
LEAST_GOOD = 0.5
"""At least this share of the rows must have a time, or the layout is wrong."""
TimeKind = Literal["s", "ms", "min", "clock", "date", "rows"]
Delimiter = Literal[",", ";", "\t", "|"]
DELIMITERS: Sequence[Delimiter] = (";", "\t", "|", ",")
"""The comma last: it may be the decimal mark."""
Unit = Literal["V", "mV", "A", "mA", "K", "C", "F", ""]
UNITS: dict[Unit, tuple[LogQuantity, float]] = {
    "V": ("volts", 1.0),
    "mV": ("volts", 1e-3),
    "A": ("amperes", 1.0),
    "mA": ("amperes", 1e-3),
    "K": ("kelvin", 1.0),
    "C": ("other", 1.0),
    "F": ("other", 1.0),
    "": ("other", 1.0),
}
"""Units a channel may be in: what it measured, and its factor to SI."""
_NUMBER = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?$")
_CLOCK = re.compile(r"\d{1,3}:\d\d(:\d\d)?([.,]\d+)?$")
_DATE = re.compile(r"\d{1,4}[-./]\d{1,2}[-./]\d{1,4}([ T]\d{1,2}:\d\d(:\d\d)?([.,]\d+)?Z?)?")
_UNIT_WORDS: Sequence[tuple[str, Unit]] = (
    (r"\bmV\b|(?i:millivolt)", "mV"), (r"\bmA\b|(?i:milliamp)", "mA"), (r"\bV\b|(?i:volt)", "V"),
    (r"\bA\b|(?i:amp|current)", "A"), (r"\bK\b|(?i:kelvin)", "K"), (r"\bC\b|(?i:celsius)", "C"),
    (r"\bF\b|(?i:fahrenheit)", "F"),
)  # fmt: skip


Column = Annotated[int, Ge(0), Le(500)]
"""A column of a file, counted from 0."""


@dataclass(frozen=True, slots=True)
class LogColumn:
    """A column that is a channel: its number from 0, what it is called, its unit."""

    column: Column
    name: Annotated[str, MinLen(1), MaxLen(60)]
    unit: Unit


@dataclass(frozen=True, slots=True)
class LogLayout:
    """How a file is laid out.

    Attributes:
        skip: rows before the first row of numbers.
        time_column: the column with the time; None where rows come evenly.
        time_kind: what it holds: seconds, milliseconds, minutes, a clock or a date; rows: `row_s` apart.
    """

    delimiter: Delimiter
    decimal: Literal[".", ","]
    skip: Annotated[int, Ge(0), Le(10_000)]
    time_column: Column | None
    time_kind: TimeKind
    channels: Annotated[tuple[LogColumn, ...], MinLen(1), MaxLen(MOST_CHANNELS)]
    row_s: Annotated[float, Gt(0), Le(86_400)] = 1.0

    def check(self) -> None:
        """JobError where its columns contradict each other."""
        columns = [c.column for c in self.channels]
        if len(set(columns)) < len(columns) or self.time_column in columns:
            raise JobError("channels", "a column stands twice", "each column once")
        if self.time_column is None and self.time_kind != "rows":
            raise JobError("time_column", "is not said", "the column with the time")


def guess_layout(head: bytes) -> LogLayout:
    """How a file seems to be laid out, by its first bytes. JobError where it is no table of numbers."""
    lines = _lines(head)
    delimiter = _delimiter(lines)
    rows = list(csv.reader(lines, delimiter=delimiter))
    decimal: Literal[".", ","] = "," if delimiter != "," and _commas(rows) else "."
    skip = next((i for i, row in enumerate(rows) if _numeric(row)), None)
    if skip is None:
        raise JobError("file", "has no row of numbers", "CSV with a column for each channel")
    heads = rows[skip - 1] if skip and len(rows[skip - 1]) == len(rows[skip]) else []
    body = [row for row in rows[skip:] if len(row) == len(rows[skip])]
    time_column, kind = _time(heads, body)
    channels = tuple(
        LogColumn(i, _name(heads, i), _unit(heads, i))
        for i in range(len(rows[skip]))
        if i != time_column and _is_channel(body, i)
    )
    if not channels:
        raise JobError("file", "has no column of numbers beside the time", "at least one channel")
    return LogLayout(delimiter, decimal, skip, time_column, kind, channels[:MOST_CHANNELS])


def shown_rows(head: bytes, layout: LogLayout, most: int = 8) -> list[list[str]]:
    """The first rows as the layout cuts them, what is before them too.

    JobError where the layout contradicts itself.
    """
    layout.check()
    return list(csv.reader(_lines(head), delimiter=layout.delimiter))[: layout.skip + most]


def _lines(head: bytes) -> list[str]:
    text = head.decode("utf-8-sig", errors="replace")
    lines = text.splitlines()
    if len(head) >= LOOKED_AT and len(lines) > 1:
        lines = lines[:-1]  # cut in the middle
    lines = [line for line in lines if line.strip()]
    if not lines:
        raise JobError("file", "is empty", "CSV with a column for each channel")
    return lines


def _delimiter(lines: Sequence[str]) -> Delimiter:
    """The first that cuts nearly all lines into the same number of columns, else the one that does best."""
    scores: list[tuple[float, Delimiter]] = []
    for each in DELIMITERS:
        counts = [line.count(each) for line in lines[:200]]
        usual = max(set(counts), key=counts.count)
        same = sum(1 for c in counts if c == usual) / len(counts)
        if usual and same >= NEARLY_ALL:
            return each
        scores.append((same if usual else 0.0, each))
    best = max(scores, key=lambda scored: scored[0])
    return best[1] if best[0] > 0 else ","


def _commas(rows: Iterable[Sequence[str]]) -> bool:
    cells = [c.strip() for row in rows for c in row]
    return sum("," in c and bool(_NUMBER.match(c)) for c in cells) > sum(
        "." in c and bool(_NUMBER.match(c)) for c in cells
    )


def _numeric(row: Sequence[str]) -> bool:
    """Whether a row holds numbers and times, and nothing else that matters."""
    cells = [c.strip() for c in row if c.strip()]
    good = sum(bool(_NUMBER.match(c) or _CLOCK.match(c) or _DATE.match(c)) for c in cells)
    return bool(cells) and any(_NUMBER.match(c) for c in cells) and good >= 0.6 * len(cells)


def _is_channel(body: Sequence[Sequence[str]], column: int) -> bool:
    cells = [row[column].strip() for row in body]
    return sum(bool(_NUMBER.match(c)) for c in cells) > 0.5 * len(cells)


def _time(heads: Sequence[str], body: Sequence[Sequence[str]]) -> tuple[int | None, TimeKind]:
    """The column with the time and what it holds: by its looks, its name, or because it never falls."""
    width = len(body[0])
    columns = [[row[i].strip() for row in body] for i in range(width)]
    for i, cells in enumerate(columns):
        if _most(_DATE, cells):
            return i, "date"
        if _most(_CLOCK, cells):
            return i, "clock"
    for i, head in enumerate(heads):
        if re.search(r"time|zeit|temps|\bt\b|sec|\bs\b|\bms\b", head, re.I) and i < width:
            return i, _time_unit(head)
    if width > 1:
        first = [float(c.replace(",", ".")) for c in columns[0] if _NUMBER.match(c)]
        if len(first) > 2 and all(b > a for a, b in pairwise(first)):
            return 0, "s"
    return None, "rows"


def _time_unit(head: str) -> TimeKind:
    if re.search(r"\bms\b|milli", head, re.I):
        return "ms"
    return "min" if re.search(r"\bmin", head, re.I) else "s"


def _most(pattern: re.Pattern[str], cells: Sequence[str]) -> bool:
    return sum(bool(pattern.match(c)) for c in cells) > 0.8 * max(len(cells), 1)


def _name(heads: Sequence[str], column: int) -> str:
    text = heads[column].strip() if column < len(heads) else ""
    plain = re.sub(r"[\[(].*?[\])]", "", text).strip(" /_-")
    return (plain or text or f"channel {column + 1}")[:60]


def _unit(heads: Sequence[str], column: int) -> Unit:
    text = heads[column] if column < len(heads) else ""
    return next((unit for pattern, unit in _UNIT_WORDS if re.search(pattern, text)), "")


def read_log(stream: IO[bytes], layout: LogLayout) -> MeterLog:
    """A log as a layout has it. JobError where it does not fit, or has too many rows."""
    import pandas as pd  # noqa: PLC0415 - see the head

    layout.check()
    columns = [c.column for c in layout.channels]
    used = sorted({*columns, *([] if layout.time_column is None else [layout.time_column])})
    times: list[np.ndarray] = []
    values: list[list[np.ndarray]] = [[] for _ in columns]
    started: pd.Timestamp | None = None
    count = 0
    try:
        reader = pd.read_csv(
            stream, sep=layout.delimiter, header=None, skiprows=layout.skip, usecols=used,
            dtype=_text_of(layout), decimal=layout.decimal, chunksize=CHUNK, on_bad_lines="skip",
            encoding="utf-8", encoding_errors="replace", quoting=csv.QUOTE_MINIMAL,
        )  # fmt: skip
        for chunk in reader:
            count += len(chunk)
            if count > MOST_ROWS:
                raise JobError("file", "has too many rows", f"up to {MOST_ROWS:,}")
            if layout.time_column is not None:
                seconds, first = _seconds(chunk[layout.time_column], layout)
                started = started or first
                times.append(seconds)
            for held, column in zip(values, columns, strict=True):
                held.append(_numbers(chunk[column], layout.decimal).astype(np.float32))
    except (ValueError, pd.errors.ParserError, pd.errors.EmptyDataError) as wrong:
        raise JobError("layout", "does not fit the file", "another delimiter or columns") from wrong
    return _made(layout, times, values, count, started)


def _made(
    layout: LogLayout,
    times: Sequence[np.ndarray],
    values: Sequence[Sequence[np.ndarray]],
    count: int,
    started: "pd.Timestamp | None",
) -> MeterLog:
    if count == 0:
        raise JobError("file", "has no rows under its head", "rows of numbers")
    seconds = (
        np.concatenate(times) if layout.time_column is not None else np.arange(count) * layout.row_s
    )
    good = np.isfinite(seconds)
    if good.sum() < max(2, LEAST_GOOD * count):
        raise JobError("time_column", "holds no times", "the column with the time, and its kind")
    order = np.argsort(seconds[good], kind="stable")
    channels = []
    for said, held in zip(layout.channels, values, strict=True):
        quantity, factor = UNITS[said.unit]
        own = np.concatenate(held)[good][order] * np.float32(factor)
        if not np.isfinite(own).any():
            raise JobError("channels", f"{said.name} has no numbers", "a column of numbers")
        channels.append(Channel(said.name, quantity, own.astype(np.float32)))
    ordered = seconds[good][order]
    stamp = None
    if started is not None and layout.time_kind == "date":
        stamp = started.tz_localize(UTC) if started.tzinfo is None else started.tz_convert(UTC)
    return MeterLog(
        ordered - ordered[0], tuple(channels),
        None if stamp is None else stamp.strftime("%Y-%m-%dT%H:%M:%SZ"),
    )  # fmt: skip


def _text_of(layout: LogLayout) -> dict[int, type]:
    """Columns to be read as text: times that are no plain numbers."""
    if layout.time_column is None or layout.time_kind not in ("clock", "date"):
        return {}
    return {layout.time_column: str}


def _numbers(cells: "pd.Series[Any]", decimal: str) -> np.ndarray:
    """A column's numbers; NaN for what is none. One word among them makes a whole piece come as text."""
    import pandas as pd  # noqa: PLC0415 - see the head

    if pd.api.types.is_numeric_dtype(cells):
        return cells.to_numpy(dtype=np.float64)
    text = cells.astype(str)
    plain = text if decimal == "." else text.str.replace(".", "").str.replace(",", ".")
    return pd.to_numeric(plain, errors="coerce").to_numpy(dtype=np.float64)


def _seconds(
    cells: "pd.Series[Any]", layout: LogLayout
) -> "tuple[np.ndarray, pd.Timestamp | None]":
    """Times in seconds, and for dates the first of them."""
    import pandas as pd  # noqa: PLC0415 - see the head

    match layout.time_kind:
        case "date":
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                stamps = pd.to_datetime(cells.str.replace(",", "."), errors="coerce", utc=True)
            known = stamps.dropna()
            first = None if known.empty else known.iloc[0]
            since = (stamps - pd.Timestamp("2000-01-01", tz="UTC")).dt.total_seconds()
            return since.to_numpy(dtype=np.float64), first
        case "clock":
            parts = cells.str.replace(",", ".").str.split(":", expand=True)
            total = np.zeros(len(cells))
            for column in parts:
                total = total * 60 + _numbers(parts[column], ".")
            return total, None
        case "ms" | "min" | "s" | "rows":
            times = {"ms": 1e-3, "min": 60.0}.get(layout.time_kind, 1.0)
            return _numbers(cells, layout.decimal) * times, None


CSV_UNITS = {"volts": "V", "amperes": "A", "kelvin": "K", "other": ""}


def csv_of(log: MeterLog) -> str:
    """A log as CSV, which this program reads back: seconds from the first sample, then every channel.

    Numbers are numbers, with a point; a cell is empty where a channel showed nothing.
    """
    import pandas as pd  # noqa: PLC0415 - see the head

    heads = [
        f"{c.name} ({unit})" if (unit := CSV_UNITS[c.quantity]) else c.name for c in log.channels
    ]
    table = pd.DataFrame(
        {i: c.values for i, c in enumerate(log.channels)}, index=np.round(log.seconds, 4)
    )
    return str(
        table.to_csv(
            header=[safe(head) for head in heads], index_label="seconds", float_format="%.7g"
        )
    )
