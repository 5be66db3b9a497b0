"""What ohms with the power off, a test lamp and a load on the bench say beside the verdict: screening."""

from collections.abc import Iterator

from spare_margin.core.circuit.loads import current_at
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import BenchCurrent, Observed, Screen
from spare_margin.core.measure import findings as found_as
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import CONTACTS, Craft, Load

ALIKE = 0.8, 1.25
"""A load on the bench is as drawn between these shares of what it should show."""
BENCH_SHARE = 0.15
"""The volts on a bench, where nobody said them, are the nominal ones to this share."""


def screening(craft: Craft, run: Run, observed: Observed) -> Iterator[Finding]:
    """The findings of one run's screens, in the order of reading.

    Args:
        craft: the wiring.
        observed: what was read, as observations.
    """
    users = {load.id for load in craft.loads}
    for screen in observed.screens:
        yield from _of_load(run.load, craft, screen)
        yield from _of_contact(run, users, screen)
        yield from _of_lamp(run, screen)
    for bench in observed.bench:
        if bench.load == run.load.id:
            yield from _on_bench(run.load, craft, bench)


def _of_load(load: Load, craft: Craft, screen: Screen) -> Iterator[Finding]:
    """Ohms across a load; with it plugged in, what lies beside it can only make them less."""
    if {screen.red, screen.black} != {load.start, load.end}:
        return
    if screen.shows == "open":
        yield found_as.LoadOpen(readings=(screen.reading,), load=load.id)
    if screen.ohm is None or screen.conditions.states.get(load.id) != "unplugged":
        return
    if load.behaviour != "constant_resistance":
        return
    # By Ohm's law: a resistance draws in proportion.
    should = craft.nominal_v / current_at(load, craft.nominal_v, craft.nominal_v)
    if not ALIKE[0] <= screen.ohm / should <= ALIKE[1]:
        yield found_as.LoadOhms(
            readings=(screen.reading,), load=load.id, ohm=screen.ohm, should_ohm=should
        )


def _of_contact(run: Run, loads: set[str], screen: Screen) -> Iterator[Finding]:
    """A contact that was commanded open and joins all the same, with every load unplugged."""
    between = run.between(screen.red, screen.black)
    if screen.shows != "joined" or between is None or len(between.pieces) != 1:
        return
    (piece,) = between.pieces
    step = next(s for s in run.steps() if s.piece.id == piece)
    states = screen.conditions.states
    # Any load that is plugged in joins both ends of the contact, around the loop.
    alone = all(states.get(key) == "unplugged" for key in loads)
    commanded = screen.conditions.scenario.contacts.get(piece) == "open"
    if step.piece.kind in CONTACTS and commanded and alone:
        yield found_as.ContactStuck(readings=(screen.reading,), piece=piece, ohm=screen.ohm or 0.0)


def _of_lamp(run: Run, screen: Screen) -> Iterator[Finding]:
    own = {*run.line["feed"], *run.line["return"]}
    if screen.shows not in ("lit", "dim", "dark") or not {screen.red, screen.black} <= own:
        return
    if screen.shows == "dim":
        yield found_as.LampDim(readings=(screen.reading,))
    elif screen.shows == "dark" and screen.conditions.loads_run(run.load):
        yield found_as.LampUnderLoad(readings=(screen.reading,), load=run.load.id)


def _on_bench(load: Load, craft: Craft, bench: BenchCurrent) -> Iterator[Finding]:
    """What a load draws unplugged from the craft, against what it should at those volts."""
    if load.behaviour is None:
        return
    nominal = craft.nominal_v
    known = bench.volts is not None
    volts = [bench.volts or 0.0] if known else [nominal * (1 + s * BENCH_SHARE) for s in (-1, 1)]
    ends = [current_at(load, nominal, v) for v in volts]
    least, most = ALIKE[0] * min(ends), ALIKE[1] * max(ends)
    off = bench.amperes + bench.limit < least or bench.amperes - bench.limit > most
    yield found_as.BenchCurrent(
        readings=(bench.reading,), load=load.id, amperes=bench.amperes,
        should_a=sum(ends) / len(ends), volts=sum(volts) / len(volts), off=off,
    )  # fmt: skip
