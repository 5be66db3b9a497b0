"""The lists of a craft: on screen, as CSV, as PDF."""

from collections.abc import Mapping
from datetime import UTC, datetime

from flask import Response

from spare_margin.core.model.pieces import to_be_sized
from spare_margin.core.walk.cautions import cautions
from spare_margin.exchange.reports.lists import written
from spare_margin.exchange.reports.quote import Quote
from spare_margin.exchange.reports.sheet import Paper
from spare_margin.service.job.session import JobSession
from spare_margin.service.upgrade.craft_lists import CraftLists, craft_lists
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_job, the_workshop
from spare_margin.web.common.downloads import attached
from spare_margin.wording.language.figures import price
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.repair import lists as words

from .models import BuyRowOut, ListsOut, ListsQuery, RunName, WireRowOut

lists_api = area("lists", __name__, "/api/v1/jobs/<string:job>/lists", "lists")
CSV = "text/csv; charset=utf-8"


def _lists(session: JobSession, query: ListsQuery) -> CraftLists:
    return craft_lists(session, query.stage, frozenset(query.run), query.whole)


def paper_of(own: Mapping[str, str]) -> Paper:
    """The paper that the workshop prints on."""
    return "letter" if own.get("paper") == "letter" else "a4"


def _to_size(made: CraftLists) -> str:
    passed = {s.piece.id for run in made.runs.values() for s in run.steps()}
    open_ones = any(to_be_sized(p) for p in made.craft.pieces if p.id in passed)
    return words.UNSIZED if open_ones else ""


@lists_api.get("", responses={200: ListsOut})
def read_lists(path: JobPath, query: ListsQuery) -> dict[str, object]:
    """The wire list and the buying list of a craft, of a plan against what lies there."""
    session = open_job(path.job)
    made = _lists(session, query)
    own = the_workshop().settings
    rows = words.wire_rows(made.craft, made.runs, made.wires, own)
    together, unpriced = words.sum_of(made.buying)
    names = {x.id: x.name for x in made.craft.loads}
    return ListsOut(
        job=session.job.id,
        title=session.job.title,
        stage=made.stage,
        stages=list(session.snapshot.heads),
        whole=made.lies is None,
        can_compare=made.stage != "as_found",
        runs=[RunName(id=key, name=names[key]) for key in made.runs],
        wires=[
            WireRowOut(
                number=r.number, wire=r.wire, start=r.start, end=r.end, size=r.size, colour=r.colour,
                cut=r.cut, cable=r.cable, start_terminal=r.start_terminal,
                end_terminal=r.end_terminal, fed_by=r.fed_by, loads=r.loads, label=r.label,
                state=r.state,  # type: ignore[arg-type]
            )
            for r in rows
        ],
        buying=[
            BuyRowOut(group=r.group, what=r.what, amount=r.amount, each=r.each, price=r.price)
            for r in words.buy_rows(made.buying, the_workshop().reel_m)
        ],
        together=price(together),
        unpriced=unpriced,
        prices_of=own.get("prices_of", ""),
        work=words.work_words(made.minutes),
        cost=words.cost_words(together, made.minutes, the_workshop().hour_price),
        to_size=_to_size(made),
    ).model_dump()  # fmt: skip


@lists_api.get("/wires.csv")
def wires_csv(path: JobPath, query: ListsQuery) -> Response:
    """The wire list as CSV, lengths as numbers in the workshop's units."""
    session = open_job(path.job)
    made = _lists(session, query)
    rows = words.wire_rows(made.craft, made.runs, made.wires, the_workshop().settings)
    text = written(
        words.WIRE_HEADS,
        (
            (str(r.number), r.start, r.end, r.size, r.colour, r.cut_m, r.cable, r.start_terminal,
             r.end_terminal, r.fed_by, r.label, r.state)
            for r in rows
        ),
    )  # fmt: skip
    return attached(text, f"wires-{session.job.title}.csv", CSV)


@lists_api.get("/buying.csv")
def buying_csv(path: JobPath, query: ListsQuery) -> Response:
    """The buying list as CSV, amounts and prices as numbers."""
    session = open_job(path.job)
    made = _lists(session, query)

    def number(value: float | None) -> str:
        return "" if value is None else f"{value:.2f}"

    text = written(
        ("what", "amount", "unit", "each", "together"),
        (
            (r.what, r.number, r.unit, number(line.each), number(line.price))
            for r, line in zip(
                words.buy_rows(made.buying, the_workshop().reel_m), made.buying, strict=True
            )
        ),
    )
    return attached(text, f"buying-{session.job.title}.csv", CSV)


@lists_api.get("/labels.csv")
def labels_csv(path: JobPath, query: ListsQuery) -> Response:
    """The text of each wire's label, two of each: one for either end."""
    session = open_job(path.job)
    made = _lists(session, query)
    rows = words.wire_rows(made.craft, made.runs, made.wires, the_workshop().settings)
    text = written(("label",), ((r.label,) for r in rows if r.state != "stays" for _ in (0, 1)))
    return attached(text, f"labels-{session.job.title}.csv", CSV)


@lists_api.get("/labels.pdf")
def labels(path: JobPath, query: ListsQuery) -> Response:
    """A sheet of labels to cut out, two of each wire that is new or changed."""
    # A second of typesetting that nothing else needs.
    from spare_margin.exchange.reports.labels_pdf import labels_pdf  # noqa: PLC0415

    session = open_job(path.job)
    made = _lists(session, query)
    own = the_workshop().settings
    rows = words.wire_rows(made.craft, made.runs, made.wires, own)
    texts = [
        (str(r.number), r.label.removeprefix(f"{r.number} ")) for r in rows if r.state != "stays"
    ]
    title, today = session.job.title, datetime.now(UTC).date()
    sheet = labels_pdf(texts, paper_of(own), own.get("workshop", ""), title, today)
    return attached(sheet, f"labels-{title}.pdf", "application/pdf")


@lists_api.get("/quote.pdf")
def quote(path: JobPath, query: ListsQuery) -> Response:
    """What will be done and what it takes, with the wire list, as PDF."""
    # A second of typesetting that nothing else needs.
    from spare_margin.exchange.reports.quote_pdf import quote_pdf  # noqa: PLC0415

    session = open_job(path.job)
    made = _lists(session, query)
    own = the_workshop().settings
    together, unpriced = words.sum_of(made.buying)
    sheet = Quote(
        workshop=own.get("workshop", ""),
        title=session.job.title,
        craft=session.job.craft_name,
        customer=session.job.customer,
        limits=session.limits.limit_set.name,
        done=tuple(words.done_words(made.craft, made.wires)),
        buying=tuple(words.buy_rows(made.buying, the_workshop().reel_m)),
        wires=tuple(words.wire_rows(made.craft, made.runs, made.wires, own)),
        together=price(together),
        unpriced=unpriced,
        prices_of=own.get("prices_of", ""),
        work=words.work_words(made.minutes),
        cost=words.cost_words(together, made.minutes, the_workshop().hour_price),
        open=_to_size(made),
        typical=words.TYPICAL,
        cautions=tuple(caution_words(cautions(made.craft, 0.0, "planned"))),
        made=datetime.now(UTC).date(),
        paper=paper_of(own),
    )
    return attached(quote_pdf(sheet), f"quote-{session.job.title}.pdf", "application/pdf")
