"""Lists as CSV (RFC 4180), safe against formulas in spreadsheets."""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence

from spare_margin.core.model.jobs import Reading, Stage
from spare_margin.exchange.tables.safe_cells import safe
from spare_margin.wording.language.figures import Figure
from spare_margin.wording.repair.proof_lines import ProofSheet


def written(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A list with its head; lines end as RFC 4180 has it."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([safe(cell) for cell in row] for row in rows)
    return text.getvalue()


def readings_csv(
    readings: Iterable[Reading], stages: Mapping[str, Stage], points: Mapping[str, str]
) -> str:
    """Every reading of a job as it was typed, with what it is in SI; superseded ones too.

    `stages` are those of the revisions by id, `points` the names of the test points.
    """

    def number(value: float | None) -> str:
        return "" if value is None else f"{value:.6g}"

    return written(
        ("id", "taken_at", "who", "stage", "scenario", "quantity", "red", "black", "typed", "value",
         "state", "accuracy", "source_v", "hold", "warm_min", "meter", "supersedes", "note"),
        (
            (r.id, r.taken_at, r.who, stages[r.revision], r.scenario, r.quantity,
             points.get(r.red, r.red), points.get(r.black, r.black), r.typed, number(r.value), r.state,
             number(r.accuracy), number(r.source_v), r.hold, number(r.warm_min), r.meter,
             r.supersedes or "", r.note)
            for r in readings
        ),
    )  # fmt: skip


def before_after_csv(sheet: ProofSheet) -> str:
    """Every measurement of a proof before and after, in SI."""

    def si(figure: Figure | None) -> str:
        return "" if figure is None else f"{figure.si:.6g}"

    def known(how: str | None) -> str:
        return (how or "not known").replace("_", " ")

    return written(
        ("what", "red", "black", "unit", "before", "before is", "verdict before", "expected", "after",
         "after is", "verdict after", "allowed"),
        (
            (r.what, r.red, r.black, "A" if r.kind == "current" else "V", si(r.before),
             known(r.before_known), r.before_verdict, si(r.expected), si(r.after),
             known(r.after_known), r.after_verdict, si(r.allowed))
            for r in sheet.readings
        ),
    )  # fmt: skip
