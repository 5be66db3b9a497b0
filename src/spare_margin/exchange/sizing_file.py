"""A sizing as the open format spare-margin-sizing, version 1."""

from collections.abc import Iterable, Mapping
from typing import Any

from spare_margin.core.sizing.easing import Ceiling
from spare_margin.core.sizing.free import FuseChosen
from spare_margin.core.sizing.reasons import Reason
from spare_margin.core.sizing.sizing import Sizing


def sizing_document(
    made: Sizing,
    fuses: Iterable[FuseChosen],
    because: Mapping[str, Reason],
    missed: Mapping[Ceiling, float],
) -> dict[str, Any]:
    """A sizing; `status` is optimal where nothing cheaper keeps every ceiling, else feasible.

    Args:
        made: the sizes.
        fuses: the fuses that were rated.
        because: what forces each wire, by its id.
        missed: by how much ceilings are missed that no sizes keep (V).
    """
    return {
        "format": "spare-margin-sizing",
        "version": 1,
        "status": "optimal" if made.proven else "feasible",
        "objective": round(made.cost, 9),
        "bound": round(made.bound, 9),
        "gap": round(made.gap, 6),
        "rounds": made.rounds,
        "sizes": {key: size.value for key, size in made.sizes.items()},
        "fuses": {each.piece: each.rating_a for each in fuses},
        "because": {key: _because(each) for key, each in because.items()},
        "loads": {
            key: {
                "feed_v": lost.feed_v,
                "return_v": lost.return_v,
                "round_trip_v": lost.round_trip_v,
            }
            for key, lost in made.trial.lost.items()
        },
        "over": [
            {"load": load, "ceiling": ceiling, "by_v": by} for (load, ceiling), by in missed.items()
        ],
    }


def _because(why: Reason) -> dict[str, Any]:
    """What forces a wire: a ceiling (`least` for a load's least volts), or something else by its word."""
    held = why.held
    out: dict[str, Any] = {"forced": why.forced}
    if held is not None and held.load:
        out |= {"ceiling": held.under, "load": held.load, "scenario": held.scenario}
        if held.starting:
            out["starting"] = held.starting
    if why.forced == "fuse":
        out["fuse_a"] = why.amperes
    return out
