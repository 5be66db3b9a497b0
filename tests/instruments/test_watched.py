"""A meter watched by its thread: what is taken by itself, gone and back, floods."""

from threading import Event

import pytest

from spare_margin.core.live.samples import Sample
from spare_margin.instruments.link import LinkTrouble
from spare_margin.instruments.scpi import ScpiLink
from spare_margin.instruments.watched import Shown, WatchedMeter
from tests.instruments.stand_ins import served

LONG_S = 60.0
"""Longer than any of this takes: a test that waits so long has failed."""


def until(meter: WatchedMeter, wanted: str) -> Shown:
    """What is shown once it is in this state, or offers what is to be taken."""
    past = -1
    while True:
        shown = meter.wait(past, LONG_S)
        assert shown.number > past, f"never {wanted}: {shown}"
        past = shown.number
        if shown.state == wanted or (wanted == "offered" and shown.offered):
            return shown


def test_a_loop_is_taken_by_itself_place_by_place() -> None:
    with served() as server:
        offered: list[Shown] = []
        came = Event()

        def tell(shown: Shown) -> None:
            if shown.offered:
                offered.append(shown)
                came.set()

        meter = WatchedMeter(lambda: ScpiLink(f"127.0.0.1:{server.port}"), tell)
        meter.start()
        while meter.wait(meter.shown.number, LONG_S).hands != "ready":
            pass
        run = server.meter.world.run
        spans = [(run.source.live, run.source.back), (run.feed_terminal, run.return_terminal)]
        for red, black in spans:
            came.clear()
            server.meter.lay(red, black)
            assert came.wait(LONG_S)
            server.meter.lay("", "")
            assert meter.wait(meter.shown.number + 8, LONG_S).hands == "ready"
        meter.stop()
        solved = server.meter.world.solved("m1", 1)
        assert solved is not None
        true = [solved.solution.volts(*span) for span in spans]
        assert [s.standing.value for s in offered if s.standing] == pytest.approx(true, rel=0.01)
        standing = offered[0].standing
        assert standing is not None
        trace = meter.trace(standing.from_s, standing.to_s)
        assert len(trace) == standing.samples


def test_a_meter_pulled_out_is_told_and_comes_back_by_itself() -> None:
    with served() as server:
        meter = WatchedMeter(lambda: ScpiLink(f"127.0.0.1:{server.port}"))
        meter.start()
        assert until(meter, "live").who.startswith("Spare Margin")
        server.pull()
        gone = until(meter, "gone")
        assert gone.wrong in ("not_there", "silent")
        assert gone.sample is None
        server.meter.plugged = True
        assert until(meter, "live").who.startswith("Spare Margin")
        meter.stop()


def test_the_wrong_mode_is_told_and_never_taken() -> None:
    with served() as server:
        meter = WatchedMeter(lambda: ScpiLink(f"127.0.0.1:{server.port}"))
        meter.start()
        until(meter, "live")
        server.meter.turn("volts_ac")
        shown = until(meter, "wrong_mode")
        assert not shown.offered
        meter.stop()


class Flood:
    """A meter that answers as fast as it is asked."""

    def __init__(self) -> None:
        self.asked = 0

    def open(self) -> str:
        return "flood"

    def read(self) -> Sample:
        self.asked += 1
        return Sample(self.asked / 1000, 0.4, 0.001)

    def close(self) -> None:
        pass


def test_a_flood_is_told_fifty_times_a_second_at_most() -> None:
    told: list[Shown] = []
    link = Flood()
    meter = WatchedMeter(lambda: link, told.append)
    meter.start()
    meter.wait(20, LONG_S)
    meter.stop()
    assert link.asked <= len(told) + 2


class Garbled(Flood):
    """Three answers of four are no figures."""

    def read(self) -> Sample:
        sample = super().read()
        if self.asked % 4:
            raise LinkTrouble("garbled", "\u2603")
        return sample


def test_single_answers_without_a_figure_are_passed_over() -> None:
    meter = WatchedMeter(Garbled)
    meter.start()
    assert meter.wait(5, LONG_S).state == "live"
    meter.stop()


class Broken(Flood):
    """A driver that comes apart once, in a way that nobody foresaw."""

    broken = False

    def read(self) -> Sample:
        if self.asked == 5 and not Broken.broken:
            Broken.broken = True
            raise ZeroDivisionError
        return super().read()


def test_a_driver_that_comes_apart_is_tried_again() -> None:
    meter = WatchedMeter(Broken)
    meter.start()
    assert until(meter, "gone").wrong == "garbled"
    until(meter, "live")
    meter.stop()
