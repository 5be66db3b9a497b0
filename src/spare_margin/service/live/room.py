"""Every meter that was added, watched; what each shows now, and who listens.

One thread a meter, however many listen: what is told is told once, and each listener takes it from there.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from threading import RLock

from spare_margin.core.live.samples import LiveQuantity, Sample
from spare_margin.core.live.steady import AIR_V, Standing, sign, swung
from spare_margin.core.model.jobs import MOST_TRACE, MeterFigure, SourceFigure
from spare_margin.core.model.meters import Connection
from spare_margin.instruments.lines import LineLink, LinePattern, choices
from spare_margin.instruments.link import Link, LinkTrouble
from spare_margin.instruments.scpi import ScpiLink
from spare_margin.instruments.watched import Shown, WatchedMeter

Tell = Callable[[str, Shown], None]
"""Told the id of a meter and what it shows."""


def link_of(connection: Connection) -> Link:
    """The way to a meter. It asks nothing of any address but that of the connection."""
    if connection.speaks == "scpi":
        return ScpiLink(connection.address)
    pattern = LinePattern(connection.figure, connection.unit)
    return LineLink(connection.address, pattern, connection.baud)


BESIDE_S = 0.3
"""A meter that shows a few figures a second shows one within so long of any instant."""
UNITS = {"volts": "V", "amperes": "A", "ohms": "\u03a9"}


def as_typed(value: float, step: float, quantity: LiveQuantity) -> str:
    """A figure as one would type it, with no more digits than the meter has.

    >>> as_typed(0.41230000001, 0.0001, "volts")
    '0.4123 V'
    """
    places = 6
    if step > 0:
        places = max(0, min(9, len(f"{step:.9f}".rstrip("0").partition(".")[2])))
    return f"{value:.{places}f} {UNITS[quantity]}"


@dataclass(frozen=True, slots=True)
class Answered:
    """What a meter answered when it was tried.

    Attributes:
        who: what it says of itself; of one that sends lines the line itself.
        sample: how that is understood; None where it is not.
        figures: of lines, the figures there are to choose from, each with the unit the line says.
    """

    who: str
    sample: Sample | None
    figures: tuple[tuple[str, str], ...] = ()


def tried(connection: Connection) -> Answered:
    """Ask a meter once what it is and what it shows. LinkTrouble where it does not answer."""
    link = link_of(connection)
    try:
        who = link.open()
        figures: tuple[tuple[str, str], ...] = ()
        if connection.speaks == "lines":
            figures = tuple((c.text, c.unit) for c in choices(who))
        try:
            return Answered(who, link.read(), figures)
        except LinkTrouble as trouble:
            if trouble.wrong != "garbled" or connection.speaks == "scpi":
                raise
            return Answered(who, None, figures)
    finally:
        link.close()


@dataclass
class MeterRoom:
    """Watches the meters it was told to keep, until it is closed."""

    _meters: dict[str, tuple[Connection, WatchedMeter]] = field(default_factory=dict)
    _listeners: list[Tell] = field(default_factory=list)
    _lock: RLock = field(default_factory=RLock)

    def keep(self, connections: Iterable[Connection]) -> None:
        """Watch these, and no other; what stays as it was goes on."""
        wanted = {each.id: each for each in connections}
        with self._lock:
            leaving = [
                k for k, (held, _) in self._meters.items() if not _alike(held, wanted.get(k))
            ]
            left = [self._meters.pop(key)[1] for key in leaving]
            for key, each in wanted.items():
                held = self._meters.get(key)
                self._meters[key] = (each, self._watched(each) if held is None else held[1])
        for meter in left:
            meter.stop(wait_s=0.0)

    def close(self) -> None:
        """Watch nothing any more, and wait for what reads."""
        with self._lock:
            left = [meter for _, meter in self._meters.values()]
        self.keep(())
        for meter in left:
            meter.stop()

    def listen(self, tell: Tell) -> Callable[[], None]:
        """Tell of everything shown from now on, in the threads of the meters; what ends that."""
        with self._lock:
            self._listeners = [*self._listeners, tell]

        def leave() -> None:
            with self._lock:
                self._listeners = [each for each in self._listeners if each is not tell]

        return leave

    def shown(self) -> dict[str, Shown]:
        """What each meter shows now."""
        with self._lock:
            return {key: meter.shown for key, (_, meter) in self._meters.items()}

    def lately(self, meter_id: str, seconds: float) -> list[tuple[str, Sample]]:
        """What a meter showed in the last seconds. KeyError where there is no such meter."""
        with self._lock:
            _, meter = self._meters[meter_id]
        return meter.lately(seconds)

    def connections(self) -> list[Connection]:
        """The meters that are watched, as they were added."""
        with self._lock:
            return [held for held, _ in self._meters.values()]

    def connection(self, meter_id: str) -> Connection:
        """A meter as it was added. KeyError where there is no such meter."""
        with self._lock:
            return self._meters[meter_id][0]

    def press(self, meter_id: str) -> tuple[Standing, MeterFigure] | None:
        """Take what stands still on a meter now; None where nothing does.

        KeyError where there is no such meter.
        """
        with self._lock:
            _, meter = self._meters[meter_id]
        standing = meter.press()
        return None if standing is None else (standing, self.figure(meter_id, standing))

    def figure(self, meter_id: str, standing: Standing) -> MeterFigure:
        """What stood still on a meter, as it is kept with a reading."""
        with self._lock:
            connection, meter = self._meters[meter_id]
        trace = [s for s in meter.trace(standing.from_s, standing.to_s) if s.value is not None]
        every = max(1, -(-len(trace) // MOST_TRACE))
        kept = trace[::every]
        return MeterFigure(
            name=connection.name, spec=connection.spec, samples=standing.samples,
            spread=standing.spread, seconds=round(standing.to_s - standing.from_s, 3),
            range_to=standing.last.range_to,
            at_s=tuple(round(s.at_s - standing.from_s, 3) for s in kept),
            shown=tuple(s.value or 0.0 for s in kept), source=self._beside(meter_id, standing),
        )  # fmt: skip

    def _beside(self, meter_id: str, standing: Standing) -> SourceFigure | None:
        """What a meter that stays on the source showed while another's figure stood.

        Nothing where its leads may have come off, or it stands on something else: no source is better than
        a wrong one.
        """
        with self._lock:
            others = [
                (c, m) for key, (c, m) in self._meters.items() if key != meter_id and c.on_source
            ]
        for connection, meter in others:
            trace = meter.trace(standing.from_s - BESIDE_S, standing.to_s + BESIDE_S)
            values = [abs(s.value) for s in trace if s.value is not None and _is_volts(s)]
            on_posts = len(values) == len(trace) and not swung({sign(s) for s in trace})
            if values and on_posts and min(values) > AIR_V:
                middle = sorted(values)[len(values) // 2]
                return SourceFigure(
                    name=connection.name, spec=connection.spec,
                    typed=as_typed(middle, trace[-1].step, "volts"), samples=len(values),
                    spread=max(values) - min(values),
                )  # fmt: skip
        return None

    def _watched(self, connection: Connection) -> WatchedMeter:
        def tell(shown: Shown) -> None:
            for each in self._listeners:
                each(connection.id, shown)

        meter = WatchedMeter(lambda: link_of(connection), tell)
        meter.start()
        return meter


def _alike(held: Connection, wanted: Connection | None) -> bool:
    """Whether a meter is read as it was; where it stays is no matter of how it is read."""
    return wanted is not None and replace(held, on_source=wanted.on_source) == wanted


def _is_volts(sample: Sample) -> bool:
    return sample.quantity == "volts" and sample.mode != "ac"
