"""The ten lessons, by hand: what each shows where its knob stands, and that the loop gives the answer."""

import pytest

from spare_margin.core.errors import JobError
from spare_margin.core.practice.lessons import KNOBS, LESSONS, SHOWS_AT, LessonId, Seen, lesson
from spare_margin.service.practice.exercises import TABLES
from spare_margin.wording.practice.lessons import figure_words, lesson_words, pulled_words

SOURCE_V = 12.6


def seen(key: LessonId, pulled: float) -> Seen:
    return lesson(key, pulled, TABLES)


def figures(key: LessonId, pulled: float) -> dict[str, float]:
    return {f.key: f.value for f in seen(key, pulled).figures}


def test_one_point_reads_what_lies_between_it_and_black() -> None:
    # 12.6 V over 0.004 + 0.08 + 2.4 + 0.004 ohm: 5.064 A.
    amps = SOURCE_V / (0.004 + 0.08 + 2.4 + 0.004)
    read = [figures("difference", at)["meter"] for at in range(4)]
    assert read == pytest.approx([amps * 2.404, amps * 2.4, 0.0, -amps * 0.08], abs=1e-6)


@pytest.mark.parametrize("pulled", [0.0, 0.25, 0.5, 0.95])
def test_the_shares_change_and_their_sum_does_not(pulled: float) -> None:
    held = figures("spent", pulled)
    assert held["together"] == pytest.approx(SOURCE_V, abs=0.05)
    assert held["joint"] + held["lamp"] + held["back"] == pytest.approx(held["together"])
    if pulled:
        assert held["joint"] / held["lamp"] == pytest.approx(pulled / (1 - pulled), rel=1e-6)


def test_without_current_the_bad_joint_reads_nothing() -> None:
    assert figures("no_current", 0) == {"joint": 0.0, "amperes": 0.0}
    amps = SOURCE_V / (1.2 + 2.4 + 0.008)
    assert figures("no_current", 1)["joint"] == pytest.approx(1.2 * amps, abs=0.01)


def test_a_strand_takes_ohms_times_amperes() -> None:
    for amps in (5, 20):
        held = figures("ohms", amps)
        assert held["strand"] == pytest.approx(0.2 * amps, rel=1e-3)
        assert held["ohms"] == pytest.approx(0.4)


def test_a_second_bad_joint_makes_the_first_look_better() -> None:
    drops = [figures("series", ohm)["joint"] for ohm in (0, 1, 3, 5)]
    assert drops == sorted(drops, reverse=True)
    assert drops[-1] == pytest.approx(0.6 * SOURCE_V / (0.6 + 5 + 2.4 + 0.004), abs=0.01)


def test_another_load_moves_the_zero() -> None:
    assert figures("shared", 0)["zero"] == pytest.approx(0.0, abs=1e-3)
    assert figures("shared", 12)["zero"] == pytest.approx(12 * 0.05, abs=1e-3)


def test_a_meter_and_a_lamp_disagree() -> None:
    held = {f.key: f for f in seen("ghosts", 3000).figures}
    assert held["meter"].value == pytest.approx(SOURCE_V, abs=0.01)
    assert held["test_lamp"].good is False
    assert {f.key: f for f in seen("ghosts", 0).figures}["test_lamp"].good is True


def test_volts_stand_up_to_the_gap() -> None:
    held = figures("opens", 3)
    assert held["at a"] == held["at b"] == pytest.approx(SOURCE_V, abs=0.01)
    assert held["at c"] == held["at lamp+"] == pytest.approx(0.0, abs=0.01)


def test_a_coarse_range_is_good_to_two_counts() -> None:
    true = 0.0064 * SOURCE_V / (0.0064 + 2.4 + 0.008)
    for at, step in enumerate((0.0001, 0.001, 0.01, 0.1)):
        (meter, _) = seen("doubt", at).figures
        assert abs(meter.value - true) <= meter.doubt
        assert meter.doubt == pytest.approx(2 * step + 0.005 * true, rel=1e-3)


def test_one_drop_passes_here_and_fails_there() -> None:
    held = {f.key: f.good for f in seen("limits", 0.3).figures}
    assert held["limit by-duty"] is False
    assert held["limit half-volt"] is True
    assert figures("limits", 0.45)["meter"] == pytest.approx(0.45, abs=0.01)


def test_the_loop_gives_the_answers() -> None:
    asked = {key: lesson_words(key).answers[seen(key, SHOWS_AT[key]).right] for key in LESSONS}
    assert asked == {
        "difference": "On Battery +", "spent": "Half of it", "no_current": "Nothing, as a good one does",
        "ohms": "4 V", "series": "Less", "shared": "What the pump's current drops there",
        "ghosts": "A joint that passes next to no current", "opens": "The joint",
        "doubt": "Anything up to 0.2 V", "limits": "It depends on the limits that apply",
    }  # fmt: skip
    # Pulled elsewhere the loop says otherwise: the answers are not written down.
    assert seen("opens", 1).right == 2
    assert seen("limits", 0.05).right == 0
    assert seen("doubt", 0).right == 1


@pytest.mark.parametrize("key", LESSONS)
def test_each_is_told_from_end_to_end(key: LessonId) -> None:
    knob, words = KNOBS[key], lesson_words(key)
    names = {k: held.name for k, held in TABLES.limit_sets.items()}
    at = knob.least
    while at <= knob.most + 1e-9:
        held = seen(key, min(at, knob.most))
        assert pulled_words(key, min(at, knob.most))
        assert all(all(figure_words(f, names)) for f in held.figures)
        assert sum(held.shares.values()) <= SOURCE_V + 1e-6
        at += knob.step * max(1, round((knob.most - knob.least) / knob.step / 6))
    assert 0 <= seen(key, SHOWS_AT[key]).right < len(words.answers)
    for wrong in (knob.least - 1, knob.most + 1):
        with pytest.raises(JobError):
            seen(key, wrong)
