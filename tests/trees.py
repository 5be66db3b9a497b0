"""Made-up crafts of shared trunks and private branches, for sizing: any number of conductors and loads."""

import random

from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    LoadLaw,
    Scenario,
    Side,
    Size,
    Source,
    SourceState,
    TestPoint,
)
from spare_margin.core.sizing.task import Task
from spare_margin.data.tables import shipped_tables

TABLES = shipped_tables()
PLAIN = tuple(s for s in TABLES.conductors.rows if (s.system, s.finish) == ("mm2", "plain"))
EVERY_LAW: tuple[LoadLaw, ...] = (
    "constant_current", "constant_power", "constant_resistance", "filament",
)  # fmt: skip
CEILINGS = (
    Ceilings(0.3, 0.3, 0.38), Ceilings(0.5, 0.25), Ceilings(None, None, 0.36),
    Ceilings(0.4, 0.4, 0.6),
)  # fmt: skip


def tree(
    rng: random.Random,
    trunks: int,
    loads: int,
    laws: tuple[LoadLaw, ...] = ("constant_current",),
    scenarios: int = 1,
    times: float = 1.0,
) -> tuple[Craft, dict[str, Ceilings]]:
    """A craft of 2 (trunks + loads) conductors, and ceilings so many times the usual ones."""
    made: list[Conductor | FixedPiece] = []
    points = {"live", "back"}

    def wire(start: str, end: str, side: Side, most_m: float) -> None:
        points.update((start, end))
        made.append(
            Conductor(
                id=f"w{len(made)}", start=start, end=end, side=side, insulation_c=105.0,
                length_m=round(rng.uniform(0.5, most_m), 2), size=Size("mm2", "auto"),
            )
        )  # fmt: skip

    panels = [("live", "back")]
    for n in range(trunks):
        feed, back = rng.choice(panels[-4:])
        wire(feed, f"t{n}f", "feed", 4)
        wire(f"t{n}r", back, "return", 4)
        panels.append((f"t{n}f", f"t{n}r"))
    drawn = []
    for n in range(loads):
        feed, back = panels[-1 - n] if n < trunks else rng.choice(panels[1:] or panels)
        wire(feed, f"l{n}p", "feed", 6)
        made.append(
            FixedPiece(
                id=f"j{n}", start=f"l{n}p", end=f"l{n}f", side="feed", kind="joint",
                style="ring on stud",
            )
        )  # fmt: skip
        points.add(f"l{n}f")
        wire(f"l{n}r", back, "return", 6)
        drawn.append(_load(rng, f"l{n}", rng.choice(laws)))
    states = [
        Scenario(
            id=f"s{n}", name=f"State {n}",
            on=frozenset(x.id for x in drawn if n == 0 or rng.random() < 0.7),
            sources={"house": SourceState(rng.choice([12.0, 12.7, 14.2]))},
            ambient_c=rng.choice([20.0, 30.0, 45.0]),
            temperature_model=rng.choice(["ambient", "self_heating"]),
        )
        for n in range(scenarios)
    ]  # fmt: skip
    house = Source(
        id="house", name="House battery", live="live", back="back", open_circuit_v=12.7,
        internal_ohm=0.005,
    )  # fmt: skip
    craft = Craft(
        kind="boat", nominal_v=12.0, polarity="negative", reference="back",
        points=tuple(TestPoint(id=p) for p in sorted(points)), sources=(house,),
        pieces=tuple(made), loads=tuple(drawn), scenarios=tuple(states),
    )  # fmt: skip
    return craft, {x.id: rng.choice(CEILINGS).scaled(times) for x in drawn}


def _load(rng: random.Random, key: str, law: LoadLaw) -> Load:
    amperes, watts = round(rng.uniform(0.5, 9), 2), round(rng.uniform(10, 90), 0)
    told: dict[str, float] = {"current_a": amperes}
    if law != "constant_current":
        told = (
            {"power_w": watts} if law == "constant_power" else {"power_w": watts, "rated_v": 12.0}
        )
    return Load(
        id=key,
        start=f"{key}f",
        end=f"{key}r",
        name=f"Load {key}",
        behaviour=law,
        **told,  # type: ignore[arg-type]
    )


def least_copper(
    craft: Craft, ceilings: dict[str, Ceilings], sizes: tuple[Size, ...] = PLAIN
) -> Task:
    """The task of finding the least copper for every conductor of a craft."""
    rows = TABLES.conductors.rows
    options = {p.id: sizes for p in craft.pieces if isinstance(p, Conductor)}
    return Task(
        craft, TABLES, options, lambda wire, size: rows[size].area_mm2, ceilings, least=False
    )
