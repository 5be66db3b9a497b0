"""The craft of a moment: which loads are on and how, which contacts stand open, what was tried out."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from spare_margin.core.model.jobs import LoadState, Moment, Reading, StandInLoad, Trial
from spare_margin.core.model.pieces import Craft, FixedPiece, Load, Scenario

STAND_IN = "stand-in"
"""The id of the load that stands in for an unplugged one."""
TRIAL_PIECE = "trial"
"""The id of the piece that a trial adds to the craft."""


@dataclass(frozen=True, slots=True)
class Conditions:
    """The conditions of some readings, and what they say of every load that is not off.

    `key` tells them from others of the same job; `order` is how long the loads had been on.
    """

    key: str
    scenario: Scenario
    moment: str | None
    states: Mapping[str, LoadState] = field(default_factory=dict)
    trial: Trial | None = None
    warm_min: float | None = None
    charging: bool | None = None
    stand_in: StandInLoad | None = None

    @property
    def running(self) -> frozenset[str]:
        """The loads that are commanded on."""
        return self.scenario.on

    @property
    def untried(self) -> "Conditions":
        """The same conditions without what was tried in them."""
        if self.trial is None:
            return self
        key = self.key.removesuffix(f" trial {self.trial.id}")
        return replace(self, key=key, trial=None)

    def loads_run(self, load: Load) -> bool:
        """Whether the run of a load is loaded here: by the load itself, or by one that stands in for it."""
        held = self.stand_in
        in_place = held is not None and bool({held.start, held.end} & {load.start, load.end})
        return load.id in self.running or in_place

    def craft(self, craft: Craft) -> Craft:
        """The craft with what the trial added, and the load that stands in for another."""
        if self.stand_in is not None:
            held = self.stand_in
            known = Load(
                id=STAND_IN, start=held.start, end=held.end, name="Stand-in load",
                behaviour="constant_current", current_a=held.amperes,
            )  # fmt: skip
            craft = replace(craft, loads=(*craft.loads, known))
        if self.trial is None:
            return craft
        added = FixedPiece(
            id=TRIAL_PIECE,
            start=self.trial.start,
            end=self.trial.end,
            side="feed",
            kind="joint",
            resistance_ohm=max(self.trial.ohm, 1e-4),
        )
        return replace(craft, pieces=(*craft.pieces, added))


def conditions_of(
    reading: Reading,
    craft: Craft,
    moments: Mapping[str, Moment],
    trials: Mapping[str, Trial],
) -> Conditions:
    """The conditions of one reading.

    A reading without a moment stands for its scenario with every load as there; warm-up and what a
    meter held tell its moment from others. KeyError for a scenario that the craft does not have.

    Args:
        moments: the moments that were noted, by id.
        trials: the trials that were noted, by id.
    """
    trial = trials.get(reading.trial or "")
    moment = moments.get(reading.moment or (trial.moment if trial else "") or "")
    if moment is None:
        moment = Moment(id="", scenario=reading.scenario, warm_min=reading.warm_min)
    scenario = craft.scenario(moment.scenario)
    states: dict[str, LoadState] = {key: "running" for key in scenario.on}
    states.update(moment.loads)
    if (
        reading.hold
        and not reading.moved
        and not any(state in ("starting", "attempted") for state in states.values())
    ):
        starters = [x.id for x in craft.loads if x.id in scenario.on and x.start_multiple]
        states.update({key: "starting" for key in starters})
    on = frozenset(k for k, state in states.items() if state not in ("off", "unplugged"))
    if moment.stand_in is not None:
        on |= {STAND_IN}
    starting = frozenset(k for k, state in states.items() if state == "starting")
    # While one thing is moved the meter holds what a single moment shows of it.
    hold = "" if reading.moved else reading.hold
    key = moment.id or f"{scenario.id} {moment.warm_min} {hold}"
    return Conditions(
        key if trial is None else f"{key} trial {trial.id}",
        replace(
            scenario,
            on=on,
            starting=starting | (scenario.starting & on),
            contacts={**scenario.contacts, **moment.contacts},
        ),
        moment.id or None,
        states,
        trial,
        moment.warm_min,
        moment.charging,
        moment.stand_in,
    )


def warm_order(conditions: Iterable[Conditions]) -> list[str]:
    """Keys of the conditions by minutes of warm-up, those that do not say it left out."""
    known = {c.key: c.warm_min for c in conditions if c.warm_min is not None}
    return sorted(known, key=lambda key: known[key])
