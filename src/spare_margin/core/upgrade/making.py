"""Moves made: each takes a wiring and gives another."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.edit.ids import NewIds
from spare_margin.core.model.pieces import Craft

from .moves import (
    Mend,
    Move,
    Moved,
    NewReturn,
    OwnFeed,
    RelayNearLoad,
    SharedRelay,
    SharedReturn,
    Thicken,
    mended,
)
from .new_ways import with_feed, with_relay, with_return
from .shared_ways import with_shared_relay, with_shared_return


def moved(
    craft: Craft,
    runs: Mapping[str, Run],
    load_id: str,
    moves: Iterable[Move],
    also: Iterable[str] = (),
) -> Moved:
    """A wiring with these moves made for one of its runs; `also` are ids that are taken elsewhere.

    Args:
        craft: the wiring.
        load_id: the id of the load.
    """
    taken = set(also)
    made = Moved(craft, ())
    drawn = craft
    for move in moves:
        if made.craft is not drawn and not isinstance(move, Mend | Thicken):
            drawn, runs = made.craft, traced(made.craft, {}).runs
        run = runs[load_id]
        ids = NewIds(made.craft, taken)
        match move:
            case Mend():
                made = replace(made, craft=mended(made.craft, move))
            case Thicken():
                made = replace(made, free=(*made.free, *move.wires))
            case NewReturn():
                made = with_return(made, runs, run, move, ids)
            case OwnFeed():
                made = with_feed(made, runs, run, move, ids)
            case RelayNearLoad():
                made = with_relay(made, run, move, ids)
            case SharedReturn():
                made = with_shared_return(made, runs, move, ids)
            case SharedRelay():
                made = with_shared_relay(made, runs, move, ids)
        taken |= ids.taken
    return made
