"""What an upgrade may do to the wiring: a repair, thicker wire, a new return, an own feed, a relay."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Repair
from spare_margin.core.model.stock import Relay


@dataclass(frozen=True, slots=True)
class Mend:
    """A piece cleaned, remade or replaced: as good as new."""

    piece: str
    how: Repair


@dataclass(frozen=True, slots=True)
class Thicken:
    """Conductors that may be replaced by thicker ones; `trunk` where other runs share some of them."""

    wires: tuple[str, ...]
    trunk: bool = False


@dataclass(frozen=True, slots=True)
class NewReturn:
    """An own return from the load to the source: in place of what is there, or beside it."""

    beside: bool


@dataclass(frozen=True, slots=True)
class OwnFeed:
    """The run's own part of the feed, supplied from the source through a wire and a fuse of its own."""

    style: str
    rating_a: float


@dataclass(frozen=True, slots=True)
class RelayNearLoad:
    """A relay at the load: a new fused feed from the source; the old wire drives its coil only."""

    relay: Relay
    style: str
    rating_a: float


@dataclass(frozen=True, slots=True)
class SharedReturn:
    """One return for several loads, along the feed that they share; from a bar where their feeds part.

    In place of what only these loads pass, or beside what is there.
    """

    loads: tuple[str, ...]
    beside: bool


@dataclass(frozen=True, slots=True)
class SharedRelay:
    """One relay for several loads behind one switch, where their feeds part; the trunk drives its coil."""

    loads: tuple[str, ...]
    relay: Relay
    style: str
    rating_a: float


Move = Mend | Thicken | NewReturn | OwnFeed | RelayNearLoad | SharedReturn | SharedRelay


@dataclass(frozen=True, slots=True)
class Moved:
    """A wiring after some moves: the conductors still to be sized, and the ids a relay was given."""

    craft: Craft
    free: tuple[str, ...]
    new: tuple[str, ...] = ()
    coil: str = ""
    contact: str = ""
    new_fuse: str = ""


def helped(load_id: str, moves: Iterable[Move]) -> tuple[str, ...]:
    """The loads that some moves are made for: the run's own first, then those that share with it.

    Args:
        load_id: the id of the run's load.
        moves: what is done.

    >>> helped("pump", [SharedReturn(("fan", "pump"), beside=False)])
    ('pump', 'fan')
    """
    shared = [key for m in moves if isinstance(m, SharedReturn | SharedRelay) for key in m.loads]
    return tuple(dict.fromkeys((load_id, *shared)))


def how_mended(piece: Conductor | FixedPiece) -> Repair:
    """What is tried first with a bad piece: a joint or body path is cleaned, anything else replaced.

    >>> how_mended(FixedPiece(id="r", start="a", end="b", side="return", kind="joint"))
    'cleaned'
    >>> how_mended(FixedPiece(id="s", start="a", end="b", side="feed", kind="switch"))
    'replaced'
    """
    joined = isinstance(piece, FixedPiece) and piece.kind in ("joint", "body_return")
    return "cleaned" if joined else "replaced"


def mended(craft: Craft, move: Mend) -> Craft:
    """A wiring with one piece as good as new.

    Args:
        craft: the wiring.
        move: which piece is mended.
    """

    def better(piece: Conductor | FixedPiece) -> Conductor | FixedPiece:
        if piece.id != move.piece:
            return piece
        # What was given as its resistance was that of the bad piece.
        ohm = piece.resistance_ohm if getattr(piece, "style", None) is None else None
        return replace(piece, repair=move.how, resistance_ohm=ohm, open=False)

    return replace(craft, pieces=tuple(map(better, craft.pieces)))
