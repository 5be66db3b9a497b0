"""What is said of an exercise: carried, lucky, guessed; what would have told more; what is a habit."""

from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import SIDES
from spare_margin.core.practice.acts import Act, Claim
from spare_margin.core.practice.debrief import Debrief, debrief, kind_of
from spare_margin.core.practice.exercise import LEVELS, Hidden
from spare_margin.core.practice.expert import way
from spare_margin.core.practice.left import Standing
from spare_margin.core.practice.making import daily, exercise, is_fair, key_of, next_like
from spare_margin.core.practice.playing import played
from spare_margin.core.practice.result import progress, result_of
from spare_margin.core.practice.shipped import SHIPPED
from spare_margin.exchange.practice import acts_of, acts_text, result_from, result_text
from spare_margin.service.practice.exercises import TABLES, limits
from spare_margin.wording.practice.debrief import DebriefWords
from tests.practice import learned, made, shipped_with

NOTED, ZERO, OVER = Act(kind="noted"), Act(kind="zero"), Act(kind="hand_over")
WEAK, NOTHING, TWO = "1-7", "7-3", "7-5"


def told(key: str, *acts: Act) -> Debrief:
    held, judge = made(key)
    return debrief(played(held, acts), judge)


def said(element: str, kind: Any = "resistance") -> Act:
    return Act(kind="conclude", claims=(Claim(element=element, kind=kind),))


def bad(key: str) -> Hidden:
    return made(key)[0].hidden[0]


@pytest.mark.slow
@pytest.mark.parametrize("level", LEVELS)
def test_what_ships_is_as_it_is_listed_fair_and_can_be_solved(level: int) -> None:
    for key, _, story, symptom in (each for each in SHIPPED if each[1] == level):
        held, judge = made(key)
        assert (held.story, held.symptom) == (story, symptom)
        assert is_fair(held, limits())
        at = way(held, judge)
        assert at.truly_well, key
        done = debrief(at, judge)
        assert done.right, (key, done.outcome)
        assert done.habits == (), (key, done.habits)
        assert done.needless == (0, 0)
        assert done.shortest.minutes == done.minutes


def test_sixty_or_more_ship_nine_of_each_level() -> None:
    assert len(SHIPPED) >= 60
    assert {sum(1 for each in SHIPPED if each[1] == level) for level in LEVELS} <= {9, 14}
    assert len({each[0] for each in SHIPPED}) == len(SHIPPED)


@pytest.mark.slow
def test_nothing_that_the_bounds_carry_is_marked_wrong() -> None:
    """The rig's people, each in his own order, on exercises nobody chose."""
    beaten = 0
    for seed in range(28):
        done = learned(key_of(LEVELS[seed % len(LEVELS)], 20_000 + seed), seed)
        assert done.right, (done.exercise.key, done.outcome)
        assert all(r.true for r in done.rests)
        beaten += done.minutes < done.shortest.minutes
    assert beaten < 10


def test_right_without_readings_is_a_lucky_guess_and_no_point() -> None:
    done = told(
        WEAK, NOTED, said(bad(WEAK).element), OVER
    )  # fmt: skip
    (rest,) = done.rests
    assert (rest.rested, rest.true, rest.kind_right) == ("lucky", True, True)
    assert done.outcome == "not_proven"
    assert not done.right
    assert {"no_current", "not_read_across", "not_proven"} <= set(done.habits)
    assert "lucky guess" in DebriefWords(done).rest(rest)


def test_a_sound_part_is_guessed_and_paid_for() -> None:
    held = made(WEAK)[0]
    sound = next(p for p in held.craft.pieces if p.id != bad(WEAK).element and p.kind == "fuse")
    done = told(WEAK, NOTED, said(sound.id, "open"), OVER)
    assert done.rests[0].rested == "guessed"
    assert done.outcome == "not_mended"
    assert done.needless == (5.0, 6.0)


def test_all_is_well_counts_by_what_was_read() -> None:
    assert told(NOTHING, NOTED, Act(kind="conclude"), OVER).outcome == "well_unproven"
    held, judge = made(NOTHING)
    done = debrief(way(held, judge), judge)
    assert (done.outcome, done.well, done.right) == ("well", "carried", True)
    missed = told(WEAK, NOTED, Act(kind="conclude"), OVER)
    assert (missed.outcome, missed.well) == ("missed", "guessed")


@pytest.mark.parametrize("key", ["7-4", "7-1"])
def test_what_comes_and_goes_is_proven_by_moving_it_or_warm(key: str) -> None:
    """Cold and still it was within before the repair, too."""
    held, judge = made(key)
    at = way(held, judge)
    last = max(i for i, a in enumerate(at.acts) if a.kind == "conclude")
    short = [*at.acts[: last + 1], Act(kind="amperes", element=held.run)]
    for side in SIDES:
        red, black = held.loop.ends(side)
        short.append(Act(kind="volts", red=red, black=black))
    assert debrief(played(held, [*short, OVER]), judge).outcome == "not_proven"
    assert debrief(at, judge).outcome == "mended"


def test_of_two_faults_one_repaired_is_not_enough() -> None:
    held, judge = made(TWO)
    first, second = held.hidden
    acts = [
        NOTED,
        ZERO,
        said(first.element),
    ]
    done = debrief(played(held, [*acts, OVER]), judge)
    assert done.outcome == "not_mended"
    both = [
        *acts,
        said(second.element),
        OVER,
    ]
    assert debrief(played(held, both), judge).outcome == "not_proven"


def test_each_reading_leaves_no_more_than_before_in_one_state() -> None:
    held, judge = made("2-1")
    run = held.loop
    acts = [NOTED, ZERO, Act(kind="amperes", element=held.run)]
    lefts = []
    for side in ("return", "feed"):
        red, black = run.ends(side)  # type: ignore[arg-type]
        acts.append(Act(kind="volts", red=red, black=black))
        lefts.append(Standing(played(held, acts), judge).left)
    first, second = lefts
    assert set(second.pieces) <= set(first.pieces)
    assert second.volts < first.volts


def test_what_would_have_told_more_is_played_and_tells_more() -> None:
    key = shipped_with(2, lambda e: e.symptom == "weak" and e.hidden[0].element != "e4")
    held, judge = made(key)
    step = next(s for s in held.loop.feed if s.piece.id == "e4")
    acts = [NOTED, ZERO, Act(kind="amperes", element=held.run),
            Act(kind="volts", red=step.entry, black=step.exit), Act(kind="conclude"), OVER]  # fmt: skip
    done = debrief(played(held, acts), judge)
    across = next(s for s in done.steps if s.act.kind == "volts")
    assert across.better is not None
    assert len(across.better.left.pieces) < len(across.after.pieces)
    assert "pieces_first" in done.habits
    says = DebriefWords(done).better(across)
    assert "would have left" in says


def test_ohms_convict_nobody() -> None:
    held, judge = made(WEAK)
    piece = next(p for p in held.craft.pieces if p.id == bad(WEAK).element)
    acts = [
        NOTED, Act(kind="command", element=held.run, state="unplugged"), Act(kind="power", state="off"),
        Act(kind="ohms", red=piece.start, black=piece.end),
        said(piece.id), OVER,
    ]  # fmt: skip
    done = debrief(played(held, acts), judge)
    assert done.rests[0].rested == "lucky"
    assert "ohms_believed" in done.habits


def test_an_open_contact_is_not_found_before_its_coil_was_looked_at() -> None:
    held, judge = made("4-2")
    run, (contact,) = held.loop, held.relays
    step = next(s for s in run.steps() if s.piece.id == contact)
    acts = [NOTED, ZERO, Act(kind="amperes", element=held.run)]
    acts += [Act(kind="volts", red=p, black=run.source.back) for p in (step.entry, step.exit)]
    left = Standing(played(held, acts), judge).left
    assert left.headline == "open"
    assert contact not in left.found
    assert contact in left.pieces
    done = debrief(
        played(held, [*acts, said(contact, "open"), OVER]),
        judge,
    )
    assert done.rests[0].rested == "guessed"


def test_every_exercise_is_made_again_from_its_key() -> None:
    assert exercise("3-77", TABLES).ohms == exercise("3-77", TABLES).ohms
    assert next_like(2, {key_of(2, 1000)}) == key_of(2, 1001)
    assert len({daily(day)[0] for day in range(7)}) == 7
    for wrong in ("8-1", "x", "1-", "1-" + "9" * 12):
        with pytest.raises(JobError):
            exercise(wrong, TABLES)


def test_progress_adds_up_and_travels_as_text() -> None:
    held, judge = made(WEAK)
    good = result_of(debrief(way(held, judge), judge))
    lucky = result_of(
        told(WEAK, NOTED, said(bad(WEAK).element, "open"), OVER)
    )  # fmt: skip
    assert result_from(result_text(good)) == good
    stands = progress([lucky, good, good])
    (level,) = stands.levels
    assert (level.ended, level.right) == (3, 2)
    assert level.times_shortest == pytest.approx(1.0)
    assert stands.kinds == {"resistance": (3, 3)}
    assert stands.lucky == 1
    assert dict(stands.habits)["not_proven"] == 1
    acts = (NOTED, Act(kind="volts", red="p1", black="p2", range_v=6.0))
    assert acts_of(acts_text(acts)) == acts


def test_kinds_are_told_apart() -> None:
    held = made("7-9")[0]
    assert kind_of(held, Hidden("battery", 0.3)) == "weak"
    assert kind_of(held, Hidden("l1", times=0.4)) == "load"
    assert kind_of(held, Hidden("e1", float("inf"))) == "open"
    assert kind_of(held, Hidden("e1", 0.2, "moved")) == "loose"


def test_a_fault_that_hides_below_the_meter_is_not_asked() -> None:
    held = made(WEAK)[0]
    slight = replace(held, hidden=(Hidden(bad(WEAK).element, 0.002),))
    assert not is_fair(slight, limits())
