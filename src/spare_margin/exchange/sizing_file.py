"""A sizing as the open format spare-margin-sizing, version 1."""

from typing import Any

from spare_margin.core.sizing.sizing import Sizing


def sizing_document(made: Sizing) -> dict[str, Any]:
    """A sizing; `status` is optimal where nothing cheaper keeps every ceiling, else feasible."""
    return {
        "format": "spare-margin-sizing",
        "version": 1,
        "status": "optimal" if made.proven else "feasible",
        "objective": round(made.cost, 9),
        "bound": round(made.bound, 9),
        "gap": round(made.gap, 6),
        "rounds": made.rounds,
        "sizes": {key: size.value for key, size in made.sizes.items()},
        "loads": {
            key: {
                "feed_v": lost.feed_v,
                "return_v": lost.return_v,
                "round_trip_v": lost.round_trip_v,
            }
            for key, lost in made.trial.lost.items()
        },
    }
