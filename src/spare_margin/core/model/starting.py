"""What holds while an engine is started.

Limits on voltage drop hold in the states a craft is used in. While an engine is started they hold for its
starter alone; what must keep running meanwhile is asked for the least volts it works at.
"""

from .pieces import Craft, Scenario

ENGINE_START = "start"
"""The id of the state that a craft with an engine begins with."""


def starts_engine(craft: Craft, scenario: Scenario) -> bool:
    """Whether an engine is started in a state: a starter is on only here, or it is a new craft's own.

    A new craft's own is one as long as nothing else is on there that runs for seconds. `scenario` may be
    one of the craft's with loads switched on or off, or left off because they stall.
    """
    others = [s for s in craft.scenarios if s.id != scenario.id]
    drawn = next((s.on for s in craft.scenarios if s.id == scenario.id), frozenset[str]())
    short = [x for x in craft.loads if x.duty == "short_time" and x.id in scenario.on | drawn]
    if any(x.is_starter and x.id not in s.on for x in short for s in others):
        return True
    return scenario.id == ENGINE_START and all(x.is_starter for x in short)


def free_in(craft: Craft, scenario: Scenario) -> frozenset[str]:
    """Ids of the loads that are held to no limit in a state; one that is on in no other is held here.

    Args:
        craft: the wiring.
        scenario: the state of the craft that is asked about.
    """
    if not starts_engine(craft, scenario):
        return frozenset()
    elsewhere = {key for s in craft.scenarios if not starts_engine(craft, s) for key in s.on}
    return frozenset(x.id for x in craft.loads if not x.is_starter and x.id in elsewhere)
