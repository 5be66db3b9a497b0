"""A recording by itself: what a meter showed, one figure after the other."""

import pytest

from spare_margin.core.live import kept
from spare_margin.core.live.samples import Sample
from spare_margin.instruments.watched import Shown
from spare_margin.service.live.recording import RecordedMeter, Recording, Wanted
from spare_margin.service.readings.taking import Typed
from spare_margin.wording.measured.recordings import state_words

METER = RecordedMeter(meter="m", name="Blue", spec="")
TYPED = Typed(id="recording", stage="as_found", scenario="s", red="", black="", typed="")


def heard(recording: Recording, seconds: range) -> None:
    for at in seconds:
        recording.hear("m", Shown(at, "live", sample=Sample(float(at), 0.4)))


def says(held: Recording) -> str:
    return state_words(
        held.wanted.kind, is_over=held.is_over, is_full=held.is_full, is_armed=held.is_armed,
        going_on=False, changes=0, watched_s=held.watched_s, heard=True,
    )  # fmt: skip


def test_a_trace_that_is_full_ends_and_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(kept, "MOST_WHOLE", 5)
    made = Recording(Wanted(id="r", job="j", kind="trace", name="t", meters=(METER,), typed=TYPED))
    heard(made, range(5))
    assert (made.is_over, made.is_full) == (False, False)
    heard(made, range(5, 60))
    assert (made.is_over, made.is_full) == (True, True)
    assert says(made).startswith("Ended by itself after 15 s: a trace keeps ")
    log, _, _ = made.log()
    assert len(log.seconds) == log.seconds[-1] + 1, "nothing of it is lost"


def test_a_trace_that_was_stopped_is_not_full() -> None:
    made = Recording(Wanted(id="r", job="j", kind="trace", name="t", meters=(METER,), typed=TYPED))
    heard(made, range(30))
    made.stop()
    assert (made.is_over, made.is_full, says(made)) == (True, False, "Recorded for 29 s.")
