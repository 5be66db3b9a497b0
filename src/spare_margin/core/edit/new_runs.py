"""Runs drawn from what their rows say, and the panels that they begin at."""

from dataclasses import dataclass, replace

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.model.pieces import Conductor, FixedPiece, Load, Size, TestPoint

from .lines import Line, LineItem
from .run_rows import Cable

RING = FixedPiece(id="", start="", end="", side="feed", kind="joint", style="ring on stud")
PIN = FixedPiece(id="", start="", end="", side="feed", kind="joint", style="pin")
FUSE = FixedPiece(id="", start="", end="", side="feed", kind="fuse")
BODY = FixedPiece(id="", start="", end="", side="return", kind="body_return")
MOST_PIN_A = 20.0
"""A load that draws more is joined by rings: its wire is thicker than pins are made for."""
WIRE = Conductor(id="", start="", end="", side="feed")


@dataclass(frozen=True, slots=True, kw_only=True)
class NewRun:
    """A run to be drawn from its row.

    Args:
        load: the load, without id and ends.
        length_m: one way (m).
        cable: how its wires lie.
        size: the size of its wires; None where it is to be chosen.
        fuse: its fuse or breaker; None for none.
        joints: how many joints each wire has at each of its ends.
    """

    load: Load
    length_m: float
    cable: Cable
    size: Size | None
    fuse: FixedPiece | None
    joints: int = 1


def line_of_row(
    new: NewRun, panel: TestPoint | None, back: TestPoint | None, nominal_v: float
) -> Line:
    """The run of a row as a line: fuse, wire and joints there, the same joints and wire back.

    Args:
        new: what the row says.
        panel: where it begins; None for the source's post.
        back: where it comes back to; None for the source's return post.
        nominal_v: the craft's nominal voltage (V).
    """
    known = new.load.behaviour is not None
    heavy = known and rated_current_a(new.load, nominal_v) > MOST_PIN_A
    at_load = RING if heavy else PIN
    cable = "twin" if new.cable == "twin" else ""
    wire = replace(WIRE, length_m=new.length_m, size=new.size, cable=cable)
    there: list[LineItem] = [] if panel is None else [panel]
    there += [] if new.fuse is None else [new.fuse]
    there += [RING] * new.joints + [wire] + [at_load] * new.joints
    home: list[LineItem] = []
    if new.cable == "body":
        home += [replace(RING, side="return")] * new.joints + [BODY]
    else:
        home += [replace(at_load, side="return")] * new.joints + [replace(wire, side="return")]
        home += [replace(RING, side="return")] * new.joints
        home += [] if back is None else [back]
    return Line((*there, new.load, *home))


def trunk_lines(
    name: str, length_m: float, from_post: TestPoint, to_post: TestPoint, by_body: bool
) -> tuple[Line, ...]:
    """A panel's feed, its main fuse and wire to be sized, and unless the body is the return the way back.

    Args:
        name: what the panel is called.
        length_m: how far it is from the source (m).
        from_post: where its feed begins.
        to_post: where its return ends.
        by_body: whether its loads return by the body.
    """
    wire = replace(WIRE, length_m=length_m)
    plus, minus = panel_points(name)
    feed = Line((from_post, FUSE, RING, wire, RING, TestPoint(id="", name=plus)))
    if by_body:
        return (feed,)
    ring, wire = replace(RING, side="return"), replace(wire, side="return")
    return feed, Line((TestPoint(id="", name=minus), ring, wire, ring, to_post))


def panel_points(name: str) -> tuple[str, str]:
    """What a panel's two sides are called.

    Args:
        name: what the panel is called; a sign at its end is not said twice.

    >>> [each.replace(chr(0x2212), "-") for each in panel_points("Panel +")]
    ['Panel +', 'Panel -']
    """
    bare = name.rstrip(" +\u2212-") or name
    return f"{bare} +", f"{bare} \u2212"
