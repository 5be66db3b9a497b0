"""Fuses against wires, currents and starts, worked by hand."""

import math
from typing import get_args

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.model.fuse_classes import FuseClass
from spare_margin.core.protection.checks import Code, NotKnown, Protection, Violation
from spare_margin.core.protection.fuses import fuse_for
from spare_margin.data.tables import shipped_tables
from spare_margin.wording.craft.protection import ACTS, LEARN, act_words, violation_words
from tests.conftest import Document, craft_of, job_document, load, piece, wire

TABLES = shipped_tables()


def checked(*elements: Document, **more: object) -> Protection:
    document = job_document(list(elements), **more)
    # A weak source: what a short draws from a strong one has its own tests.
    document["sources"][0]["internal_ohm"] = 0.02
    craft = craft_of(document)
    tracer = Tracer(craft, {})
    runs = {x.id: tracer.trace(x) for x in craft.loads}
    solutions = [solve(craft, s, TABLES) for s in craft.scenarios]
    return Protection(craft, runs, solutions, TABLES)


def fuse(key: str, start: str, end: str, rating: float, **more: object) -> Document:
    return piece(key, start, end, kind="fuse", rating_a=rating, **more)


def run(
    rating: float, amperes: float = 5.0, feed: str = "2.5", back: str = "2.5", **more: object
) -> list[Document]:
    """A fuse at the post, a feed of 105 C insulation, a load, a return."""
    return [
        fuse("f", "b+", "f1", rating),
        wire("w", "f1", "l+", mm2=feed, insulation_c=105),
        load(behaviour="constant_current", current_a=amperes, **more),
        wire("r", "l-", "b-", "return", mm2=back, insulation_c=105),
    ]


def codes(checked: Protection) -> set[tuple[str, str]]:
    return {(v.code, v.piece) for v in checked.violations}


def one(checked: Protection, code: str) -> Violation:
    return next(v for v in checked.violations if v.code == code)


def test_a_sound_run_has_nothing_to_say() -> None:
    assert checked(*run(15)).violations == ()


def test_a_wire_thinner_than_its_fuse_is_found_on_both_sides() -> None:
    """1 mm2 of 105 C bears 20 A at 30 C, 21.3 in air of 20 C: a fuse of 25 A is too much for it."""
    made = checked(*run(25, 15, back="1"))
    assert codes(made) == {("thin_for_fuse", "r")}
    assert made.violations[0].facts["amperes"] == pytest.approx(20 * math.sqrt(85 / 75))
    assert made.violations[0].facts["fits"] == 20.0  # 15 A x 1.25 = 18.75 A
    assert made.of_run("l") == [made.violations[0]]


def test_a_bundle_takes_from_what_a_wire_bears() -> None:
    bundled = run(30, 15)
    assert checked(*bundled).violations == ()
    bundled[1]["bundle"] = 5  # 35 A x 0.7
    assert codes(checked(*bundled)) == {("thin_for_fuse", "w")}


def test_a_branch_without_a_fuse_is_named_once() -> None:
    made = checked(
        wire("main", "b+", "p", length_m=0.2),
        wire("a", "p", "l+"), load(end="b-"),
        wire("b", "p", "m+"), load("m", "m+", "b-"),
        fuse("f", "p", "q", 10), wire("c", "q", "n+"), load("n", "n+", "b-"),
    )  # fmt: skip
    found = [v for v in made.violations if v.code == "unfused"]
    assert [(v.piece, v.loads) for v in found] == [("a", ("l",)), ("b", ("m",))]
    # 5 A x 1.25: 7.5 A is the smallest blade that carries it.
    assert found[0].facts == {"style": "blade", "rating": 7.5}
    assert "a blade fuse of 7.5 A" in violation_words(found[0], made.craft)[1]


def test_a_fuse_far_from_the_post() -> None:
    made = checked(
        wire("lead", "b+", "a", length_m=0.8), fuse("f", "a", "c", 15), wire("w", "c", "l+"),
        load(end="b-"),
    )  # fmt: skip
    found = one(made, "fuse_far")
    assert (found.piece, found.loads) == ("lead", ("l",))
    assert found.facts == {"metres": 0.8, "most": 0.3}


def test_what_flows_for_long_wants_a_quarter_more() -> None:
    assert codes(checked(*run(10, 8.0))) == set()
    assert one(checked(*run(10, 8.4)), "fuse_small").facts["needed"] == pytest.approx(10.5)
    # A load of short time may draw what the fuse is rated for.
    assert codes(checked(*run(10, 9.9, duty="short_time"))) == set()


def test_a_start_that_opens_a_fast_fuse() -> None:
    """5 A x 4 on 10 A is twice the rating: a blade may open after 0.15 s, a start takes 0.5 s."""
    made = checked(*run(10, 5.0, start_multiple=4))
    assert codes(made) == {("opens_at_start", "f")}
    assert one(made, "opens_at_start").facts["carries"] == pytest.approx(0.15)
    assert checked(*run(15, 5.0, start_multiple=4)).violations == ()


def test_two_in_series_the_wrong_way_round() -> None:
    made = checked(
        fuse("near", "b+", "a", 10), fuse("far", "a", "c", 20), wire("w", "c", "l+"),
        load(end="b-"),
    )  # fmt: skip
    found = one(made, "wrong_order")
    assert (found.piece, found.fuse) == ("near", "far")


def test_a_large_battery_wants_a_fuse_that_can_break_its_short() -> None:
    """12.6 V behind 3 mohm and half a milliohm of lead: 3,600 A, and a blade breaks 1,000."""
    elements = run(15)
    elements[0] |= {"from": "c"}
    lead = piece("lead", "b+", "c", resistance_ohm=0.0005)
    document = job_document([lead, *elements])
    document["sources"][0] |= {"internal_ohm": 0.003, "capacity_ah": 300}
    craft = craft_of(document)
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    made = Protection(craft, runs, [solve(craft, craft.scenario(), TABLES)], TABLES)
    assert one(made, "cannot_break").facts["amperes"] == pytest.approx(12.6 / 0.0035)


@pytest.mark.parametrize(("capacity", "breaks"), [(190, False), (None, False), (None, True)])
def test_a_short_is_reckoned_from_the_battery_drawn(capacity: float | None, breaks: bool) -> None:
    """12.6 V behind 2 mohm are 6,300 A, whatever the battery holds; a blade breaks 1,000."""
    document = job_document(run(15))
    document["sources"][0] |= {"internal_ohm": 0.02 if breaks else 0.002}
    if capacity:
        document["sources"][0]["capacity_ah"] = capacity
    craft = craft_of(document)
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    made = Protection(craft, runs, [solve(craft, craft.scenario(), TABLES)], TABLES)
    assert (("cannot_break", "f") in codes(made)) is not breaks


def shared_return(amperes: float, back: str) -> list[Document]:
    """Four loads, each behind a fuse of its own, back through one wire."""
    out: list[Document] = [wire("r", "bar", "b-", "return", mm2=back, insulation_c=105)]
    for n in range(4):
        out += [
            fuse(f"f{n}", "b+", f"p{n}", 15),
            wire(f"w{n}", f"p{n}", f"l{n}", mm2="2.5", insulation_c=105),
            load(f"l{n}", f"l{n}", "bar", behaviour="constant_current", current_a=amperes),
        ]
    return out


def test_a_return_carries_the_sum_and_no_fuse_sees_it() -> None:
    """Four loads of 12 A behind 15 A share a wire that bears 25 A at 30 C: 48 A."""
    made = checked(*shared_return(12.0, "1.5"))
    found = one(made, "overloaded")
    assert (found.piece, found.loads) == ("r", ("l0", "l1", "l2", "l3"))
    assert found.facts["amperes"] == pytest.approx(48.0)
    assert found.facts["bears"] == pytest.approx(25 * math.sqrt(85 / 75))
    assert "48" in violation_words(found, made.craft)[0]
    assert codes(checked(*shared_return(6.5, "1.5"))) == set()
    # What is on only for a short time heats no wire to its end.
    short = [
        e | {"duty": "short_time"} if e["kind"] == "load" else e for e in shared_return(12, "1.5")
    ]
    assert codes(checked(*short)) == set()


@pytest.mark.parametrize(
    ("change", "lacks", "pieces"),
    [
        ({"w": {"insulation_c": None}}, "insulation", ("w",)),
        ({"w": {"insulation_c": None}, "r": {"insulation_c": None}}, "insulation", ("w", "r")),
        ({"r": {"size": {"system": "mm2", "value": "0.5"}}}, "row", ("r",)),
        ({"r": {"size": None, "ohm_per_m": 0.007}}, "size", ("r",)),
        ({"r": {"size": None}}, "to_size", ("r",)),
        # While wires are planned, so is a fuse without a rating; else it is one nobody could read.
        ({"r": {"size": None}, "f": {"rating_a": None}}, "to_size", ("f", "r")),
        ({"f": {"rating_a": None}}, "rating", ("f",)),
    ],
)
def test_what_is_not_known_is_told_and_never_fine(
    change: dict[str, Document], lacks: str, pieces: tuple[str, ...]
) -> None:
    elements = [
        {k: v for k, v in (e | change.get(e["id"], {})).items() if v is not None} for e in run(15)
    ]
    made = checked(*elements)
    found = one(made, "not_known")
    assert (found.facts["what"], found.pieces, found.loads) == (lacks, pieces, ("l",))
    says, do = violation_words(found, made.craft)
    assert ("To be sized" if lacks == "to_size" else "not known") in says
    assert do.endswith(".")


def test_in_a_stretch_nobody_has_drawn_there_may_be_a_fuse() -> None:
    stretch = {"id": "u", "kind": "unknown", "from": "b+", "to": "a", "side": "feed"}
    made = checked(stretch, wire("w", "a", "l+", insulation_c=105), load(end="b-"))
    assert codes(made) == {("not_known", "u")}


@pytest.mark.parametrize(
    ("kind", "name", "duty", "code"),
    [
        ("vehicle", "Starter", "short_time", "unfused_by_custom"),
        ("vehicle", "Winch", "short_time", "unfused"),
        ("boat", "Starter", "short_time", "unfused"),
        ("vehicle", "Starter relay lamp", "ordinary", "unfused"),
    ],
)
def test_an_engines_starter_has_no_fuse_by_custom(
    kind: str, name: str, duty: str, code: str
) -> None:
    made = checked(
        wire("w", "b+", "l+", mm2="50", insulation_c=105),
        load(end="b-", behaviour="constant_current", current_a=180, name=name, duty=duty),
        craft=kind,
    )
    assert (code, "w") in codes(made)
    if duty == "short_time":
        # 180 A x 4 for half a second opens every fuse that 50 mm2 would bear: none is named.
        assert one(made, code).facts == {}
    says, do = violation_words(one(made, code), made.craft)
    assert ("as is usual" in says) is (code == "unfused_by_custom")
    assert ("Fit" in do) is (code == "unfused")


def test_every_violation_has_its_words() -> None:
    made = checked(*run(10, 12.0, back="0.75", start_multiple=4))
    assert len(made.violations) == 2
    for found in made.violations:
        says, do = violation_words(found, made.craft)
        assert says.endswith(".")
        assert do.endswith(".")


@pytest.mark.parametrize(
    ("lasting", "start", "bears", "fitting"),
    [
        (5.0, (5.0, 0.5), 35.0, ("blade", 7.5)),
        (5.0, (20.0, 0.5), 35.0, ("blade", 15.0)),  # 20 / 15 is below 1.35: never opens
        (5.0, (20.0, 0.5), 12.0, None),  # what starts it would burn the wire
        (60.0, (60.0, 0.5), 90.0, ("large blade", 80.0)),
        (120.0, (400.0, 0.5), 210.0, ("bolt-down", 200.0)),
    ],
)
def test_the_smallest_fuse_that_does_it_all(
    lasting: float, start: tuple[float, float], bears: float, fitting: tuple[str, float] | None
) -> None:
    assert fuse_for(lasting, lasting, start, bears, TABLES) == fitting


def test_opening_times_fall_with_the_current() -> None:
    slow = FuseClass("x", "slow", (100.0, 10.0, 1.0, 0.2, 0.1), 1000.0)
    times = [slow.carries_s(m / 10) for m in range(10, 150)]
    assert times == sorted(times, reverse=True)
    assert slow.carries_s(3.5) == pytest.approx(1.0)
    assert slow.carries_s(50) == 0.1


def test_what_to_do_is_said_in_a_few_words() -> None:
    assert set(ACTS) | {"not_known"} == set(get_args(Code))
    assert set(LEARN) == set(get_args(NotKnown))
    assert all(len(says.split()) <= 10 for says in (*ACTS.values(), *LEARN.values()))
    made = checked(*shared_return(12.0, "1.5"))
    assert act_words(one(made, "overloaded")) == "Fit a thicker wire"
