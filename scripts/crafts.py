"""Crafts of any size, for the benches."""

from dataclasses import replace

from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Size,
    TestPoint,
)
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import read_line

TABLES = shipped_tables()


def written(craft: Craft, text: str) -> tuple[Craft, str]:
    """A craft with one more run, written as a line, and the id of its load."""
    read = read_line(text, craft, TABLES)
    assert read.line is not None, read.errors
    made, load = drawn(craft, read.line)
    return made, str(load)


def generated(pieces: int) -> Craft:
    """A craft of about so many pieces: a main feed along which panels stand, ten runs on each."""
    wire = {"size": Size("mm2", "2.5"), "insulation_c": 105.0}
    points, made, loads = {"live", "back"}, [], []

    def joined(kind: str, start: str, end: str, side: str, metres: float = 0.0) -> None:
        points.update((start, end))
        key = f"e{len(made)}"
        if kind == "wire":
            made.append(
                Conductor(id=key, start=start, end=end, side=side, length_m=metres, **wire)  # type: ignore[arg-type]
            )
        else:
            made.append(
                FixedPiece(id=key, start=start, end=end, side=side, kind="joint", style=kind)  # type: ignore[arg-type]
            )

    number, feed, back = 0, "live", "back"
    while len(made) < pieces:
        if number % 10 == 0:
            panel, bus = f"panel{number}", f"bus{number}"
            joined("post clamp", feed, f"{panel}c", "feed")
            joined("wire", f"{panel}c", panel, "feed", 0.01)
            joined("wire", bus, back, "return", 0.01)
            feed, back = panel, bus
        at = f"r{number}"
        joined("pin", feed, f"{at}a", "feed")
        joined("wire", f"{at}a", f"{at}b", "feed", 2.0 + number % 7)
        joined("pin", f"{at}b", f"{at}+", "feed")
        points.update((f"{at}+", f"{at}-"))
        loads.append(
            Load(
                id=f"l{number}", start=f"{at}+", end=f"{at}-", name=f"Load {number}",
                behaviour="constant_current", current_a=0.002,
            )
        )  # fmt: skip
        joined("pin", f"{at}-", f"{at}c", "return")
        joined("wire", f"{at}c", back, "return", 2.0 + number % 5)
        number += 1
    craft = new_craft("boat", 12.0, "none", "agm", clamps=False)
    on = frozenset(load.id for load in loads)
    scenario = Scenario(id="on", name="All on", on=on, ambient_c=25.0)
    return replace(
        craft,
        points=tuple(TestPoint(id=p) for p in sorted(points)),
        pieces=tuple(made),
        loads=tuple(loads),
        scenarios=(scenario,),
    )


PANEL = (
    "isolator > 50 mm2 3 m 105 \u00b0C [Panel] > fuse 5 > panel switch > 1.5 mm2 3 m > pin > "
    'motor "Fan 0" 0.8 A x3 > pin > 1.5 mm2 3 m > ring [Bus] > 50 mm2 3 m 105 \u00b0C'
)


def off_a_panel(runs: int = 40) -> Craft:
    """A craft of so many runs off one panel."""
    craft = new_craft("boat", 12.0, "none", "agm", 200.0)
    for i in range(runs):
        text = PANEL if i == 0 else (
            f"[Panel] > fuse 5 > panel switch > 1.5 mm2 {3 + i / 10} m > pin > "
            f'motor "Fan {i}" 0.8 A x3 > pin > 1.5 mm2 3 m > ring [Bus]'
        )  # fmt: skip
        craft, _ = written(craft, text)
    return craft
