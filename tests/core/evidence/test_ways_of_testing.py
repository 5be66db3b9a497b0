"""Every way of testing, a simulated meter doing the reading on a craft with a known fault."""

import math
from dataclasses import replace

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import Moment, Outcome, Reading, StandInLoad, Trial
from spare_margin.core.model.pieces import Craft, FixedPiece, Side, TestPoint
from spare_margin.core.walk.at_rest import bypassed, parked_on, sweep
from spare_margin.exchange.quantities import understand
from spare_margin.service.job.judging import Judging
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by
from tests.simulated_meter import SimulatedMeter

CRAFT = craft_by(
    'fuse 15 [F] > panel switch [S] > 2.5 mm2 3 m > pin [Plug] > load "Pump" 4.6 A > pin [Home] > '
    "2.5 mm2 3 m > ring [Stud] > body"
)
LOAD = CRAFT.loads[0]
SCENARIO = CRAFT.scenarios[0]
HERE = {"scenario": SCENARIO.id}


def piece(kind: str, nth: int = 0) -> str:
    return [p.id for p in CRAFT.pieces if p.kind == kind][nth]


SWITCH, RING, BODY = piece("switch"), piece("joint", -2), piece("body_return")


def run() -> Run:
    return Tracer(CRAFT, closed_ohms(CRAFT, TABLES)).trace(LOAD)


def metered(
    excess: dict[str, float], craft: Craft = CRAFT, seed: int = 5, **scenario: object
) -> SimulatedMeter:
    state = replace(SCENARIO, **scenario)
    return SimulatedMeter(craft, state, TABLES, excess, seed)


def shown(meter: SimulatedMeter, red: str, black: str, **more: object) -> Reading:
    text = meter.volts(red, black)
    value = None if text is None else understand(text, "volts", "typed").value
    return reading(red, black, value, **{**HERE, **more})


def opening(meter: SimulatedMeter) -> list[Reading]:
    """Source, current, and across the load."""
    amps = float(meter.amperes(LOAD.id))
    clamp = reading(LOAD.start, LOAD.end, amps, quantity="amperes", accuracy=0.1, **HERE)
    return [shown(meter, "live", "back"), clamp, shown(meter, LOAD.start, LOAD.end)]


def judge(
    seen: list[Reading], moments: list[Moment] | None = None, trials: list[Trial] | None = None
) -> Judgement:
    return Judging(CRAFT, seen, moments or [], trials or [], LIMITS, TABLES).judge(LOAD.id)


def ends(key: str) -> tuple[str, str]:
    found = next(p for p in CRAFT.pieces if p.id == key)
    return found.start, found.end


def came(before: float, after: float) -> Outcome:
    """How the load came out of a trial, by its volts."""
    gained = (after - before) / 12.5
    return "none" if gained < 0.03 else "right" if after / 12.5 > 0.95 else "partly"


@pytest.mark.parametrize("guilty", [SWITCH, RING])
def test_a_bridge(guilty: str) -> None:
    """0.7 ohm too much: every piece is bridged in turn, and only one brings the load right."""
    faulty = metered({guilty: 0.7})
    moment = Moment(id="m", scenario=SCENARIO.id)
    plain = abs(float(faulty.volts(LOAD.start, LOAD.end) or 0))
    trials = []
    for key in (piece("fuse"), SWITCH, RING, BODY):
        trial = Trial(id=key, moment="m", kind="bridge", start=ends(key)[0], end=ends(key)[1])
        joined = Conditions("c", SCENARIO, "m", trial=trial).craft(CRAFT)
        after = abs(float(metered({guilty: 0.7}, joined).volts(LOAD.start, LOAD.end) or 0))
        trials.append(replace(trial, outcome=came(plain, after)))
    assert [t.id for t in trials if t.outcome == "right"] == [guilty]
    found = judge(opening(faulty), [moment], trials)
    assert found.top[0] == guilty


def test_a_temporary_return_by_its_volts() -> None:
    faulty = metered({BODY: 0.3})
    trial = Trial(id="t", moment="m", kind="return", start=LOAD.end, end="back", ohm=0.012)
    joined = Conditions("c", SCENARIO, "m", trial=trial).craft(CRAFT)
    spare = shown(metered({BODY: 0.3}, joined), LOAD.start, LOAD.end, moment="m", trial="t")
    moment = Moment(id="m", scenario=SCENARIO.id)
    found = judge([*opening(faulty), spare], [moment], [trial])
    assert found.verdict == "over"
    on_return = {s.piece.id for s in run().back}
    assert sum(found.search.by_element.get(key, 0.0) for key in on_return) > 0.9


@pytest.mark.parametrize(("guilty", "over"), [(SWITCH, "feed"), (BODY, "return")])
def test_a_stand_in_load_with_a_lead_moved(guilty: str, over: str) -> None:
    """A 55 W lamp in the connector, then its return lead on the post; its leads have 20 mohm."""
    seen, moments = [], []
    for end in (LOAD.end, "back"):
        held = StandInLoad(start=LOAD.start, end=end, amperes=4.5)
        moment = Moment(id=end, scenario=SCENARIO.id, loads={LOAD.id: "unplugged"}, stand_in=held)
        state = Conditions("c", SCENARIO, end, stand_in=held)
        craft = state.craft(CRAFT)
        meter = metered({guilty: 0.25}, craft, on=frozenset({"stand-in"}))
        across = float(meter.volts(LOAD.start, end) or 0) - 4.5 * 0.02
        source = float(meter.volts("live", "back") or 0)
        moments.append(moment)
        seen.append(
            reading(LOAD.start, end, across, moment=end, source_v=source, leads_ohm=0.02, **HERE)
        )
    found = judge(seen, moments)
    assert found.verdict == "over"
    good = "return" if over == "feed" else "feed"
    assert found.sides[good].verdict != "over"  # type: ignore[index]
    likely = {e for e, p in found.suspicion.items() if p > 0.01}
    assert guilty in likely


@pytest.mark.parametrize("opened", [SWITCH, BODY, piece("joint", 0)])
def test_the_sweep_at_rest(opened: str) -> None:
    """Load off, its switch closed; behind an open there is nothing, or it hangs loose."""
    side: Side = "feed" if opened in {s.piece.id for s in run().feed} else "return"
    parked = parked_on(run(), side)
    contacts = {SWITCH: "closed"}
    meter = metered({opened: math.inf}, on=frozenset())
    resting = solve(CRAFT, replace(SCENARIO, on=frozenset()), TABLES)
    order = [p.point for p in sweep(run(), resting, {}, 12.6, side)]
    read = {}
    for point in order:
        text = meter.volts(*sorted((point, parked), key=lambda p: p == "back"))
        read[point] = None if text is None else float(text)
    source_v = float(meter.volts("live", "back") or 0)
    assert bypassed(sweep(run(), resting, read, source_v, side)) == []
    off = Moment(id="m", scenario=SCENARIO.id, loads={LOAD.id: "off"}, contacts=contacts)
    conclusion = judge([shown(meter, p, parked, moment="m") for p in order], [off]).conclusion
    assert [(f.piece, f.kind) for f in conclusion.found] == [(opened, "open")]
    assert any(v is None for v in read.values()), "what hangs behind the open wanders"


def test_a_thing_that_is_moved() -> None:
    still, moved = metered({}), metered({RING: 0.06})
    at = (LOAD.end, "back")
    seen = [
        *opening(still),
        shown(still, *at, hold="least", moved=RING),
        shown(moved, *at, hold="most", moved=RING),
    ]
    found = judge(seen)
    assert found.top[0] == RING
    assert "moves" in {f.code for f in found.findings}


def test_a_proven_point_in_place_of_the_post() -> None:
    """A hull bolt that leads to the post by 8 mohm of its own; another load draws through it."""
    bolt = TestPoint(id="bolt", name="Hull bolt")
    strap = FixedPiece(
        id="strap", start="bolt", end="back", side="return", kind="joint", resistance_ohm=0.008
    )
    other = replace(LOAD, id="other", start=LOAD.start, end="bolt", name="Other", current_a=5.0)
    world = replace(
        CRAFT, points=(*CRAFT.points, bolt), pieces=(*CRAFT.pieces, strap),
        loads=(*CRAFT.loads, other),
    )  # fmt: skip
    meter = metered({BODY: 0.2}, world, on=SCENARIO.on | {"other"})
    drawn = replace(CRAFT, points=(*CRAFT.points, bolt))
    seen = [
        *opening(meter),
        shown(meter, LOAD.end, "bolt", id="a1"),
        shown(meter, "bolt", "back", id="a2"),
    ]
    found = Judging(drawn, seen, [], [], LIMITS, TABLES).judge(LOAD.id)
    assert found.sides["return"].verdict == "over"
    true = float(meter.volts(LOAD.end, "back") or 0)
    assert found.sides["return"].volts == pytest.approx(true, abs=0.03)


def test_ohms_with_the_power_off_find_an_open_and_pass_nothing() -> None:
    """A meter's few milliamperes see a last strand as a wire: 0.2 ohm too much reads as a way."""
    through = reading(*ends(RING), 0.3, quantity="ohms", leads_ohm=0.2, **HERE)
    assert judge([through]).verdict == "not_judged"
    apart = reading(*ends(RING), None, quantity="ohms", **{**HERE, "state": "over_range"})
    dead = metered({RING: math.inf})
    found = judge([*opening(dead), apart])
    assert found.loaded is False


def test_the_current_at_the_attempt() -> None:
    """Commanded, does not turn: no ampere is an open, the usual amperes are the load's own affair."""
    moment = Moment(id="m", scenario=SCENARIO.id, loads={LOAD.id: "attempted"})
    opened = metered({SWITCH: math.inf})
    none = [replace(r, moment="m") for r in opening(opened)]
    found = judge(none, [moment])
    assert found.loaded is False
    assert found.search.by_element.get(LOAD.id, 0.0) < 0.5
    healthy = [replace(r, moment="m") for r in opening(metered({}))]
    assert judge(healthy, [moment]).verdict != "over"
