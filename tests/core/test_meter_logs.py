"""Meters' logs: figures by hand, steps found, no spike lost, layouts guessed and read."""

import io
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from spare_margin.core.errors import JobError
from spare_margin.core.measure.meter_logs import (
    Channel,
    MeterLog,
    envelope,
    figures,
    numbered,
    segments,
    watched,
)
from spare_margin.core.model.jobs import LogQuantity, LogSegment
from spare_margin.exchange.meter_log_csv import LogColumn, LogLayout, guess_layout, read_log


def log_of(values: object, step: float = 1.0, quantity: LogQuantity = "volts") -> MeterLog:
    held = np.array(values, dtype=np.float32)
    return MeterLog(np.arange(len(held)) * step, (Channel("a", quantity, held),))


def test_figures_of_a_window_by_hand() -> None:
    """1, 3, 2, 4, 3, 5 over 0 to 5 s: the line through them rises by 0.6286 V a second."""
    found = figures(log_of([1, 3, 2, 4, 3, 5]), 0, 0.0, 5.0)
    assert found is not None
    assert (found.least, found.most, found.count) == (1.0, 5.0, 6)
    assert found.mean == pytest.approx(3.0)
    assert found.drift == pytest.approx(5 * 11 / 17.5)
    around = [-0.4286, 0.9429, -0.6857, 0.6857, -0.9429, 0.4286]
    assert found.ripple == pytest.approx(
        float(np.diff(np.quantile(around, [0.005, 0.995]))[0]), abs=1e-3
    )
    part = figures(log_of([1, 3, 2, 4, 3, 5]), 0, 1.5, 3.2)
    assert part is not None
    assert (part.count, part.mean) == (2, 3.0)
    assert figures(log_of([1, 2]), 0, 10.0, 20.0) is None
    assert figures(log_of([math.nan, math.nan]), 0, 0.0, 5.0) is None


@given(st.lists(st.floats(-100, 100, width=32), min_size=1, max_size=400), st.integers(1, 60))
def test_no_spike_is_lost_in_what_is_drawn(values: list[float], most: int) -> None:
    log = log_of(values)
    drawn = envelope(log, 0, most)
    assert len(drawn.seconds) == len(drawn.least) == len(drawn.most) <= most
    assert float(np.nanmax(drawn.most)) == pytest.approx(max(values))
    assert float(np.nanmin(drawn.least)) == pytest.approx(min(values))
    assert np.all(drawn.least <= drawn.most)


@given(
    st.lists(st.floats(-50, 50, width=32), min_size=3, max_size=60),
    st.floats(-10, 10), st.floats(-3, 3),
)  # fmt: skip
def test_laws_of_figures(values: list[float], more: float, slope: float) -> None:
    """What is added to all moves the mean alone; a slope more is so much more drift."""
    plain = figures(log_of(values), 0, 0.0, 1e9)
    ramp = np.arange(len(values)) * slope
    moved = figures(log_of(np.array(values) + more + ramp), 0, 0.0, 1e9)
    assert plain is not None
    assert moved is not None
    assert moved.mean == pytest.approx(plain.mean + more + float(ramp.mean()), abs=1e-3)
    assert moved.drift == pytest.approx(plain.drift + float(ramp[-1]), abs=1e-2)
    assert moved.ripple == pytest.approx(plain.ripple, abs=1e-2)
    assert plain.least <= plain.mean + 1e-4
    assert plain.mean <= plain.most + 1e-4


def switched(
    noise: float = 0.0005, step: float = 0.01, inrush: float = 2.0
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A load on from 10 to 40 s and from 50 to 55 s, with an inrush that is over after half a second."""
    rng = np.random.default_rng(3)
    t = np.arange(0, 60, step)
    amps = np.where(((t >= 10) & (t < 40)) | ((t >= 50) & (t < 55)), 5.0, 0.0)
    for start in (10, 50):
        since = np.clip(t - start, 0, 5)
        amps = amps + np.where((t >= start) & (since < 1), 5 * inrush * np.exp(-since / 0.15), 0)
    return t, amps + rng.normal(0, noise, len(t))


EDGES = [("off", 0, 10), ("start", 10, 10.5), ("steady", 10.5, 40), ("off", 40, 50),
         ("start", 50, 50.5), ("steady", 50.5, 55), ("off", 55, 60)]  # fmt: skip


def check(found: list[LogSegment]) -> None:
    assert [s.kind for s in found] == [kind for kind, _, _ in EDGES]
    for segment, (_, start, end) in zip(found, EDGES, strict=True):
        assert segment.start_s == pytest.approx(start, abs=0.3)
        assert segment.end_s == pytest.approx(end, abs=0.3)


def test_load_on_start_steady_and_off_are_found_by_the_current() -> None:
    t, amps = switched(0.01)
    log = MeterLog(t, (Channel("clamp", "amperes", amps.astype(np.float32)),))
    check(segments(log, 0, 12.0))
    steady = segments(log, 0, 12.0)[2]
    found = figures(log, 0, steady.start_s, steady.end_s)
    assert found is not None
    assert found.mean == pytest.approx(5.0, abs=0.02)
    assert found.least > 4.9


def test_by_a_source_that_sags_and_by_a_drop_that_warms() -> None:
    t, amps = switched(0.0)
    rng = np.random.default_rng(5)
    source = 12.62 - 0.012 * amps + rng.normal(0, 0.002, len(t))
    drop = 0.08 * amps * (1 + 0.1 * np.clip((t - 10) / 30, 0, 1)) + rng.normal(0, 0.0005, len(t))
    log = MeterLog(
        t, (Channel("source", "volts", source.astype(np.float32)),
            Channel("drop", "volts", drop.astype(np.float32))),
    )  # fmt: skip
    assert watched(log, 12.0) == 1
    check(segments(log, 1, 12.0))
    kinds = [s.kind for s in segments(log, 0, 12.0)]
    assert kinds[0] == "off"
    assert "steady" in kinds
    # While it warms the drop rises by a tenth.
    warm = figures(log, 1, 11.0, 39.5)
    assert warm is not None
    assert warm.drift == pytest.approx(0.04 * 28.5 / 30, rel=0.1)


@pytest.mark.parametrize("shape", ["flat", "ramp", "noise", "short", "empty"])
def test_what_has_no_steps_has_none(shape: str) -> None:
    rng = np.random.default_rng(2)
    values = {
        "flat": np.full(2000, 12.6), "ramp": np.linspace(12.7, 12.1, 2000),
        "noise": rng.normal(0.2, 0.05, 2000), "short": np.array([1.0, 5.0]), "empty": np.zeros(0),
    }[shape]  # fmt: skip
    log = log_of(values, 0.01)
    assert segments(log, 0, 12.0) == []
    assert watched(log, 12.0) is None


def test_one_bad_sample_is_no_step() -> None:
    values = np.full(3000, 0.2)
    values[1500] = 9.0
    assert segments(log_of(values, 0.01), 0, 12.0) == []


def test_segments_have_names_of_their_own() -> None:
    found = [LogSegment("off", 0, 1), LogSegment("steady", 1, 2), LogSegment("off", 2, 3)]
    assert numbered(found) == [1, 1, 2]


# Layouts


def read(text: str, layout: LogLayout | None = None) -> MeterLog:
    raw = text.encode()
    return read_log(io.BytesIO(raw), layout or guess_layout(raw))


SRC = "date,src V,drop V,A\n2026-05-06 10:00:00,12.6,0.1,4\n2026-05-06 10:00:30,12.5,0.2,5\n"
HEADED = "Recorder\nmade up\n\nNo.;DC current (A)\n1;4,5\n2;4,6\n3;OL\n"


@pytest.mark.parametrize(
    ("text", "seconds", "quantities", "first"),
    [
        ("t,V\n0,1\n1,2\n2,3\n", [0, 1, 2], ["volts"], [1, 2, 3]),
        ("Time [ms];U [mV]\n0;250,5\n500;260,5\n999;270\n", [0, 0.5, 0.999], ["volts"],
         [0.2505, 0.2605, 0.27]),
        ("10:00:01\t12,5\n10:00:02\t12,6\n10:01:02,5\t12,7\n", [0, 1, 61.5], ["other"],
         [12.5, 12.6, 12.7]),
        (HEADED, [0, 1, 2], ["amperes"], [4.5, 4.6, math.nan]),
        ("12.1\n12.2\n12.3", [0, 1, 2], ["other"], [12.1, 12.2, 12.3]),
        (SRC, [0, 30], ["volts", "volts", "amperes"], [12.6, 12.5]),
        ('"time s"|"Volts"\n"2"|"5"\n"1"|"4"\n"0"|"3"\n', [0, 1, 2], ["volts"], [3, 4, 5]),
    ],
)  # fmt: skip
def test_files_are_read_as_they_come(
    text: str, seconds: list[float], quantities: list[str], first: list[float]
) -> None:
    log = read(text)
    assert log.seconds == pytest.approx(seconds, abs=1e-4)
    assert [c.quantity for c in log.channels] == quantities
    assert list(log.channels[0].values) == pytest.approx(first, rel=1e-6, nan_ok=True)


def test_a_date_says_when_it_began() -> None:
    log = read("date,V\n2026-05-06 10:00:00,12.6\n2026-05-06 10:00:30,12.5\n")
    assert log.started_at == "2026-05-06T10:00:00Z"


@pytest.mark.parametrize("text", ["", "\n\n", "hello\nworld\n", "a;b\nc;d\n", "\x00\x01\x02"])
def test_what_is_no_log_is_said(text: str) -> None:
    with pytest.raises(JobError, match="accepted"):
        guess_layout(text.encode())


def test_a_layout_that_does_not_fit_is_said() -> None:
    text = "t;V\n0;1\n1;2\n2;3\n"
    wrong = LogLayout(";", ".", 1, 1, "date", (LogColumn(0, "V", "V"),))
    with pytest.raises(JobError, match="holds no times"):
        read("t;V\n0;x\n1;y\n2;z\n", wrong)
    beyond = LogLayout(";", ".", 1, 0, "s", (LogColumn(7, "V", "V"),))
    with pytest.raises(JobError, match="does not fit"):
        read(text, beyond)
    words = LogLayout(";", ".", 0, None, "rows", (LogColumn(0, "V", "V"),))
    with pytest.raises(JobError, match="has no numbers"):
        read("a\nb\nc\n", words)


@given(
    st.sampled_from([";", "\t", ","]), st.sampled_from([".", ","]),
    st.lists(st.tuples(st.floats(-50, 50), st.floats(0, 20)), min_size=8, max_size=40),
    st.booleans(),
)  # fmt: skip
def test_any_way_of_writing_numbers_is_read_the_same(
    delimiter: str, decimal: str, rows: list[tuple[float, float]], headed: bool
) -> None:
    if delimiter == "," and decimal == ",":
        return
    lines = [delimiter.join(("Time s", "Drop V", "Clamp A"))] if headed else []
    for i, row in enumerate(rows):
        cells = [f"{v:.3f}" for v in (i * 0.5, *row)]
        lines.append(delimiter.join(c.replace(".", decimal) for c in cells))
    log = read("\n".join(lines) + "\n")
    assert log.seconds == pytest.approx([i * 0.5 for i in range(len(rows))])
    for i in range(2):
        assert log.channels[i].values == pytest.approx([r[i] for r in rows], abs=6e-4)
