"""The conditions of readings in one line: which loads are on and how, for how long."""

from collections.abc import Mapping

from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.model.jobs import LoadState
from spare_margin.core.model.pieces import Craft
from spare_margin.wording.craft.pieces import worded
from spare_margin.wording.language.figures import digits

STATES: Mapping[LoadState, str] = {
    "unplugged": "unplugged",
    "off": "off",
    "running": "running",
    "attempted": "switched on, not running",
    "starting": "starting",
}
MOST_NAMED = 3


def moment_words(conditions: Conditions, craft: Craft) -> str:
    """The conditions in one line: `Rested \u00b7 Pump running \u00b7 12 min`."""
    states = conditions.states
    said = [f"{x.name} {STATES[states[x.id]]}" for x in craft.loads if x.id in states]
    if len(said) > MOST_NAMED:
        said = [*said[: MOST_NAMED - 1], f"{len(said) - MOST_NAMED + 1} more"]
    parts = [conditions.scenario.name, *said]
    if conditions.warm_min is not None:
        parts.append(f"{digits(conditions.warm_min, 3)} min")
    if conditions.charging is not None:
        parts.append("charger on" if conditions.charging else "charger off")
    if conditions.trial is not None:
        kinds = {"bridge": "bridged", "feed": "fed directly", "return": "spare {return}"}
        parts.append(worded(kinds[conditions.trial.kind]))
    return " \u00b7 ".join(parts)
