"""What readings say, case by case: each was once said wrongly, or could be."""

from dataclasses import replace
from typing import Literal

import pytest

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import planned
from spare_margin.core.measure.findings import ProtectionOpen
from spare_margin.core.model.jobs import Moment, Reading
from spare_margin.core.model.pieces import Scenario
from spare_margin.service.job.judging import Judging
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.craft.pieces import piece_name
from spare_margin.wording.measured.findings import finding_words
from spare_margin.wording.measured.verdicts import judgement_words
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by, judged

LAMP = craft_by(
    'fuse 15 > 1.5 mm² 3 m > pin [F] > lamp "L" 55 W at 12 V > pin > 1.5 mm² 1.5 m > ring > body'
)
COIL = craft_by(
    "fuse 10 > switch [Key out] > 1.5 mm² 2 m > pin [Plug] > relay > 1 mm² 1.5 m > pin [S] > "
    'heater "Sol" 4 Ω least 8 V > ring [Block] > 25 mm² 0.6 m > ring'
)
SUPPLY = ("live", "back")


def ends(craft: object) -> tuple[str, str]:
    load = craft.loads[0]  # type: ignore[attr-defined]
    return load.start, load.end


def volts(red: str, black: str, value: float | None, **more: object) -> Reading:
    return reading(red, black, value, **{"scenario": "rested", **more})


def clamped(craft: object, value: float, **more: object) -> Reading:
    accuracy = 0.02 * abs(value) + 0.02
    return volts(*ends(craft), value, quantity="amperes", accuracy=accuracy, **more)


def codes(found: Judgement) -> set[str]:
    return {f.code for f in found.findings}


LP, LM = ends(LAMP)
CP, CM = ends(COIL)


def test_a_zero_current_passes_nothing() -> None:
    """Source 12.4, nothing drawn, 12.39 V at the lamp: the lamp, or what commands it."""
    found = judged(LAMP, [volts(*SUPPLY, 12.4), clamped(LAMP, 0.0), volts(LP, LM, 12.39)])
    assert found.verdict == "not_judged"
    assert found.loaded is False
    assert found.top[0] == "l"
    assert "check the load" in judgement_words(found, LAMP)


@pytest.mark.parametrize(
    ("at_return", "side"), [(0.0, {"f1", "w1", "j1", "j3"}), (12.4, {"j4", "w2", "j5", "g1", "j2"})]
)
def test_an_open_is_searched_for_with_absolute_readings(at_return: float, side: set[str]) -> None:
    found = judged(
        LAMP,
        [
            volts(*SUPPLY, 12.4),
            clamped(LAMP, 0.0),
            volts(LP, LM, 0.0),
            volts(LM, "back", at_return),
        ],
    )
    assert found.verdict == "not_judged"
    assert not found.done
    assert found.probes, "the search goes on"
    assert {e for e, p in found.search.by_element.items() if p > 0.01} <= side
    assert all(s.kind == "open" for s in found.search.suspects if s.probability > 0.01)


def test_an_open_is_cornered_between_two_points() -> None:
    found = judged(
        LAMP,
        [
            volts(*SUPPLY, 12.4),
            clamped(LAMP, 0.0),
            volts(LP, LM, 0.0),
            volts(LM, "back", 0.0),
            volts("p1", "back", 12.4),
            volts("p2", "back", 0.0),
        ],
    )
    assert found.done == "cornered"
    between = {p.id for p in LAMP.pieces if {p.start, p.end} == {"p1", "p2"}}
    assert {found.top[0]} == between


def test_a_source_above_the_drawing_accuses_nobody() -> None:
    found = judged(COIL, [volts(*SUPPLY, 12.85)])
    assert found.verdict == "not_judged"
    assert found.top[0] is None
    assert not found.search.together


def test_half_the_volts_at_a_coil_is_over_and_never_more_than_there_is() -> None:
    """12.7 V, 6.35 V at the load, 6.3 V in the feed: at its full draw it would take all there is."""
    found = judged(
        COIL,
        [volts(*SUPPLY, 12.7), volts(CP, CM, 6.35), volts("live", CP, 6.3), clamped(COIL, 1.6)],
    )
    assert found.verdict == "over"
    feed = found.sides["feed"]
    assert feed.volts == pytest.approx(6.3, abs=0.1)
    assert feed.loaded_low_v is not None
    assert feed.loaded_low_v > 6.3
    assert feed.loaded_high_v is not None
    assert feed.loaded_high_v <= max(s.open_circuit_v for s in COIL.sources) + 1.5
    assert found.measured.load_v["rested"] == pytest.approx(6.35, abs=0.4)
    assert "drops_out" in codes(found), "it needs 8 V"
    assert found.top[0] not in {"j5", "w3", "j6", "j2"}, "the return is sound"


def test_another_source_is_scaled_by_the_model() -> None:
    """13.2 V and half of it at the load: what is missing lies in the run; how much it draws nobody read."""
    found = judged(COIL, [volts(*SUPPLY, 13.2), volts(CP, CM, 6.7), volts("plug", CM, 13.1)])
    assert found.verdict == "over_as_ran"
    named = {e for e, p in found.suspicion.items() if p > 0.1}
    assert named <= {"k1", "w2", "j4", "j3"}, "what stands behind the plug"


def test_a_tenth_of_the_current_passes_nothing() -> None:
    heater = craft_by('fuse 20 > 2.5 mm² 4 m > heater "H" 180 W at 12 V > 2.5 mm² 4 m > ring')
    hp, hm = ends(heater)
    found = judged(
        heater,
        [
            volts(*SUPPLY, 12.6),
            clamped(heater, 1.75),
            volts("live", hp, 0.05),
            volts(hm, "back", 0.05),
        ],
    )
    assert found.verdict == "over"
    assert found.sides["return"].loaded_v == pytest.approx(0.05 * 15 / 1.75, rel=0.15)
    assert "low_current" in codes(found)


def test_a_plan_that_replaces_the_wrong_part_is_seen_to_fail() -> None:
    """1.43 V in one ring; a plan that swaps the switch leaves it."""
    craft = craft_by(
        'fuse 15 > switch > 2.5 mm² 3 m > load "P" 8 A > 2.5 mm² 3 m [Out] > ring [Stud] > '
        "16 mm² 1 m > ring"
    )
    pp, pm = ends(craft)
    found = judged(
        craft,
        [
            volts(*SUPPLY, 12.6), clamped(craft, 8.0), volts(pm, "back", 1.6),
            volts("out", "stud", 1.43), volts("live", pp, 0.3), volts(pp, pm, 10.7),
        ],
    )  # fmt: skip
    ring = next(p.id for p in craft.pieces if {p.start, p.end} == {"out", "stud"})
    assert found.top[0] == ring
    run = found.run
    ceilings = LIMITS.ceilings(run.load, 12.0)
    for swapped, verdict in (("s1", "over"), (ring, "within")):
        pieces = tuple(replace(p, name="New") if p.id == swapped else p for p in craft.pieces)
        plan = replace(craft, pieces=pieces)
        runs = Judging(plan, (), (), (), LIMITS, TABLES).runs
        made = planned(found, plan, runs[run.load.id], ceilings)
        assert made is not None
        assert made.verdict == verdict
        assert (ring in made.left_in) == (swapped != ring)


def warm(first: float, second: float) -> Judgement:
    moments = [
        Moment(id="cold", scenario="rested", warm_min=0.0),
        Moment(id="warm", scenario="rested", warm_min=20.0),
    ]
    readings = [
        volts(*SUPPLY, 12.5, moment="cold"),
        clamped(LAMP, 4.4, moment="cold"),
        volts("p2", LP, first, moment="cold"),
        clamped(LAMP, 4.2, moment="warm"),
        volts("p2", LP, second, moment="warm"),
        volts(LM, "back", 0.12, moment="cold"),
    ]
    return Judging(LAMP, readings, moments, (), LIMITS, TABLES).judge("l")


def test_moments_are_never_averaged() -> None:
    """One pin at 0.03 V cold and 2.4 V warm: over, and it grows."""
    found = warm(0.03, 2.4)
    assert found.verdict == "over"
    assert found.top[0] == next(p.id for p in LAMP.pieces if {p.start, p.end} == {"p2", LP})
    assert "grows_warm" in codes(found)
    assert [s.volts for s in found.spans if s.span.pieces == (found.top[0],)] == [0.03, 2.4]


def test_another_load_of_the_circuit_is_not_this_one() -> None:
    """With only its neighbour on, nothing that is read says that this one is within."""
    craft = craft_by(
        'fuse 15 > switch [Bar] > 1.5 mm² 3 m > load "One" 5 A > 1.5 mm² 3 m > ring',
        '[Bar] > 1.5 mm² 3 m > load "Two" 5 A > 1.5 mm² 3 m > ring',
    )
    other = Scenario(id="other", name="Other", on=frozenset({"two"}))
    craft = replace(craft, scenarios=(*craft.scenarios, other))
    one = next(load for load in craft.loads if load.id == "one")
    readings = [
        volts(*SUPPLY, 12.5, scenario="other"), volts(one.start, one.end, 11.6, scenario="other"),
        volts("live", one.start, 0.89, scenario="other"),
    ]  # fmt: skip
    assert judged(craft, readings, "one").verdict != "within"


@pytest.mark.parametrize("lost", [0.45, 0.9])
def test_one_span_over_its_sides_ceiling_is_over_at_once(lost: float) -> None:
    found = judged(LAMP, [volts(*SUPPLY, 12.6), clamped(LAMP, 4.5), volts(LM, "p5", lost)])
    assert found.verdict == "over"
    assert found.sides["return"].verdict == "over"


def test_as_predicted_is_never_over() -> None:
    """22 mV of 250 in the body return are nothing to remark on, and nothing is guilty."""
    readings = [
        volts(*SUPPLY, 12.6), clamped(LAMP, 4.5), volts("live", LP, 0.30), volts(LM, "back", 0.13),
        volts(LP, LM, 12.1),
    ]  # fmt: skip
    found = judged(LAMP, readings)
    assert found.verdict in ("within", "too_close")
    body = next(p for p in LAMP.pieces if p.id == "g1")
    more = [volts(body.start, body.end, 0.022), volts("p5", "p6", 0.02)]
    again = judged(LAMP, readings + more)
    assert again.verdict != "over"
    assert again.top[1] < 0.9 or again.top[0] is None


def test_a_current_that_fits_nothing_is_said() -> None:
    twice = [volts(*SUPPLY, 12.6), clamped(LAMP, 9.0), volts(LP, LM, 12.1)]
    assert codes(judged(LAMP, twice)) & {"high_current"}
    fifth = [volts(*SUPPLY, 12.6), clamped(LAMP, 0.9), volts(LP, LM, 12.4)]
    assert codes(judged(LAMP, fifth)) & {"low_current"}


def test_a_source_read_beside_it_moves_what_is_left_by_difference() -> None:
    """Source 12.50, feed 0.50, load 10.30 while the source stood at 12.35: the return takes 1.55."""
    found = judged(
        COIL,
        [volts(*SUPPLY, 12.5), volts("live", CP, 0.5), volts(CP, CM, 10.3, source_v=12.35)],
    )
    assert found.sides["return"].volts == pytest.approx(1.55, abs=0.04)


def test_a_charger_may_hold_what_it_holds() -> None:
    """14.1 V where the drawing says 13.6: sources float; nothing is weak."""
    found = judged(LAMP, [volts(*SUPPLY, 14.1, scenario="charging")])
    assert found.top[0] is None
    assert found.search.by_element.get("source", 0.0) < 0.05


def test_open_on_purpose_is_not_a_fault() -> None:
    craft = craft_by('fuse 10 > switch "Deck" > 1.5 mm² 2 m > load "L" 4 A > 1.5 mm² 2 m > ring')
    off = Scenario(id="off", name="Switched off", on=frozenset({"l"}), contacts={"s1": "open"})
    craft = replace(craft, scenarios=(*craft.scenarios, off))
    lp, lm = ends(craft)
    found = judged(
        craft,
        [volts(*SUPPLY, 12.6, scenario="off"), volts(lp, lm, 0.0, scenario="off"),
         volts("live", lp, 12.6, scenario="off")],
    )  # fmt: skip
    assert found.verdict != "over"
    assert found.top[0] is None


def test_names_cannot_be_confused() -> None:
    named = list(full_names(LAMP, judged(LAMP, []).run).values())
    assert len(set(named)) == len(named)
    assert "Pin, return side" in named


def test_nothing_read_judges_nothing() -> None:
    found = judged(LAMP, [])
    assert found.verdict == "not_judged"
    assert found.loaded is None
    assert found.probes
    assert found.amps is None


def test_the_clamps_doubt_is_in_what_is_said_of_the_loaded_drop() -> None:
    """A drop at another current is only as good as the current: +-5 % of clamp is 5 % of the drop."""
    base = [volts(*SUPPLY, 12.5), volts(LP, LM, 11.9), volts("live", LP, 0.4)]
    fine = judged(LAMP, [*base, volts(LP, LM, 4.5, quantity="amperes", accuracy=0.02)])
    loose = judged(LAMP, [*base, volts(LP, LM, 4.5, quantity="amperes", accuracy=0.6)])
    spans = [
        next(s for s in f.spans if (s.span.red, s.span.black) == ("live", LP))
        for f in (fine, loose)
    ]
    assert spans[1].ohm_high is not None
    assert spans[0].ohm_high is not None
    assert spans[1].ohm_high > spans[0].ohm_high
    assert spans[0].ohm == pytest.approx(0.4 / 4.5, rel=0.01)


@pytest.mark.parametrize(("word", "kind"), [("fuse 15", "fuse"), ("breaker 15", "breaker")])
def test_a_fuse_or_breaker_found_open_is_told_with_what_comes_before_a_reset(
    word: str, kind: Literal["fuse", "breaker"]
) -> None:
    craft = craft_by(f'{word} > 1.5 mm² 3 m > lamp "L" 55 W at 12 V > 1.5 mm² 1.5 m > ring > body')
    plus, minus = ends(craft)
    guard = next(p for p in craft.pieces if p.kind == kind)
    dead = [
        volts(*SUPPLY, 12.4), clamped(craft, 0.0), volts(plus, minus, 0.0), volts(minus, "back", 0.0),
    ]  # fmt: skip
    across = volts(guard.start, guard.end, 12.4)
    found = judged(craft, [*dead, across])
    assert found.top[0] == guard.id
    assert "not_loaded" not in codes(found), "it is known why, and switching on would not help"
    told = [f for f in found.findings if isinstance(f, ProtectionOpen)]
    assert told == [ProtectionOpen(piece=guard.id, kind=kind)]
    says, do = finding_words(told[0], craft)
    assert piece_name(guard) in says
    assert "once only" in do
    alive = [volts(*SUPPLY, 12.4), clamped(craft, 4.5), volts(plus, minus, 12.1)]
    assert "protection_open" not in codes(judged(craft, alive))


WINCH = craft_by(
    'ring > 16 mm² 1 m > ring [Bar] > breaker 100 > 16 mm² 2 m > motor "Winch" 80 A > 16 mm² 2 m > ring',
    '[Bar] > 4 mm² 1 m > load "Coil" 35 A > 4 mm² 1 m > body',
)


def test_an_open_breaker_behind_a_load_that_draws_convicts_no_clamp() -> None:
    """A coil before it draws 35 A all the while: its drops are no excess of the clamp."""
    motor = WINCH.loads[0]
    bar = next(p.id for p in WINCH.points if p.name == "Bar")
    breaker = next(p for p in WINCH.pieces if p.kind == "breaker")
    dead = [
        volts(*SUPPLY, 12.4), volts(motor.start, motor.end, 0.0, quantity="amperes", accuracy=0.3),
        volts(motor.start, motor.end, 0.0, id="load"), volts(bar, "back", 12.25),
    ]  # fmt: skip
    found = judged(WINCH, dead, motor.id)
    assert found.loaded is False
    clamps = [p.id for p in WINCH.pieces if p.name.startswith("Clamp")]
    assert all(found.search.by_element[key] < 0.05 for key in clamps)
    assert found.top[0] == breaker.id
    after = judged(WINCH, [*dead, volts(breaker.end, "back", 0.0)], motor.id)
    assert (after.done, after.top[0]) == ("cornered", breaker.id)


def test_a_clamped_current_is_what_the_drops_are_held_against() -> None:
    """A winch at 86 A, clamped: the excess in its feed is told in ohms at that current."""
    motor = WINCH.loads[0]
    readings = [
        volts(*SUPPLY, 11.9), volts(motor.start, motor.end, 86.0, quantity="amperes", accuracy=2.0),
        volts(motor.start, motor.end, 10.2, id="load"), volts(motor.end, "back", 0.2),
    ]  # fmt: skip
    found = judged(WINCH, readings, motor.id)
    assert found.amps is not None
    assert found.amps[0] == pytest.approx(86.0, abs=2.0)
    assert found.verdict == "over"
    feed = {s.piece.id for s in found.run.feed}
    assert {e for e, p in found.search.by_element.items() if p > 0.05} <= feed
    lost = 11.9 - 10.2 - 0.2
    suspect = next(s for s in found.search.suspects if s.kind == "excess_resistance")
    assert suspect.ohm is not None
    assert 0.3 * lost / 86 < suspect.ohm < lost / 86, "the drawn pieces take the rest"
