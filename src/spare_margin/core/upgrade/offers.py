"""What may be done for a run: every row of the table of repairs that applies, and sensible combinations."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.model.pieces import Conductor, FixedPiece, undrawn
from spare_margin.core.model.stock import Relay
from spare_margin.core.protection.fuses import fuse_for

from .bench import Bench
from .moves import Mend, Move, NewReturn, OwnFeed, RelayNearLoad, Thicken, how_mended
from .new_ways import own_steps

MOST_MENDED = 3
"""Mends of more pieces than that are a new run."""


@dataclass(frozen=True, slots=True)
class Offer:
    """What may be done, before it is worked out: an id that stays the same, and the moves."""

    id: str
    moves: tuple[Move, ...]


@dataclass(frozen=True, slots=True)
class NotOffered:
    """What might have been done and cannot be: which move, why as a code, and what it is about."""

    move: str
    why: str
    facts: Mapping[str, float | str]


class Offers:
    """Collects what may be done on a bench, and what cannot be and why."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.offered: list[Offer] = []
        self.refused: list[NotOffered] = []
        if not bench.known:
            self.refused.append(NotOffered("", "not_known", {}))
            return
        mends = [self._mend(key) for key in list(bench.gains())[:MOST_MENDED]]
        own, every = self._own_wires(), self._every_wire()
        returns, feed, relay = self._returns(), self._feed(), self._relay()
        self._mends(mends)
        if own:
            self._offer("thicker", Thicken(own))
        if set(every) - set(own):
            self._offer("thicker-trunk", Thicken(every, trunk=True))
        for name, move in returns:
            self._offer(name, move)
        if feed is not None:
            self._offer("own-feed", feed)
        if relay is not None:
            self._offer("relay", relay)
        self._combinations(mends, own, returns, relay)

    def _offer(self, name: str, *moves: Move) -> None:
        if moves and all(o.moves != moves for o in self.offered):
            self.offered.append(Offer(name, moves))

    def _mends(self, mends: list[Mend]) -> None:
        for mend in mends:
            self._offer(f"mend-{mend.piece}", mend)
        if mends and mends[0].how == "cleaned":
            self._offer(f"remake-{mends[0].piece}", replace(mends[0], how="remade"))
        if len(mends) > 1:
            self._offer("mend-all", *mends)

    def _combinations(
        self,
        mends: list[Mend],
        own: tuple[str, ...],
        returns: list[tuple[str, NewReturn]],
        relay: RelayNearLoad | None,
    ) -> None:
        first = mends[:1]
        if relay is not None and returns:
            self._offer("relay-return", relay, returns[0][1])
        if first and own:
            self._offer("mend-thicker", *first, Thicken(own))
        if first and returns:
            self._offer("mend-return", *first, returns[0][1])
        if first and relay is not None:
            self._offer("mend-relay", *first, relay)

    def _mend(self, key: str) -> Mend:
        piece = next(p for p in self.bench.craft.pieces if p.id == key)
        return Mend(key, how_mended(piece))

    def _every_wire(self) -> tuple[str, ...]:
        return tuple(s.piece.id for s in self.bench.run.steps() if sized(s.piece))

    def _own_wires(self) -> tuple[str, ...]:
        sides = (self.bench.run.feed, self.bench.run.back)
        own = [s for side in sides for s in own_steps(self.bench.runs, self.bench.run, side)]
        return tuple(s.piece.id for s in own if sized(s.piece) and not s.beside)

    def _returns(self) -> list[tuple[str, NewReturn]]:
        """A new return is worth it where the old one is shared, unknown, or leads through the body."""
        if self._in_series("return", -1):
            return []
        own = {s.piece.id for s in own_steps(self.bench.runs, self.bench.run, self.bench.run.back)}
        shared = [s for s in self.bench.run.back if s.piece.id not in own]
        body = any(s.piece.kind == "body_return" for s in self.bench.run.back)
        wires = [s.piece for s in self.bench.run.back if isinstance(s.piece, Conductor)]
        unknown = any(not sized(wire) for wire in wires)
        if not (body or unknown or any(isinstance(s.piece, Conductor) for s in shared)):
            return []
        if not self._feed_length("return"):
            return []
        return [("return", NewReturn(False)), ("return-beside", NewReturn(True))]

    def _feed_length(self, move: str) -> bool:
        """A new way is as long as the old one out: somebody must have said how long that is."""
        known = not any(
            undrawn(s.piece) and s.piece.kind in ("conductor", "unknown")
            for s in self.bench.run.feed
        )
        if not known:
            self.refused.append(NotOffered(move, "no_length", {}))
        return known

    def _fuse(self, move: str) -> tuple[str, float] | None:
        lasting, running, starting = self.bench.draws
        fuse = fuse_for(lasting, running, starting, None, self.bench.tables)
        if fuse is None:
            self.refused.append(NotOffered(move, "no_fuse", {"amperes": running}))
        return fuse

    def _feed(self) -> OwnFeed | None:
        if self._in_series("own-feed", 0):
            return None
        own = {s.piece.id for s in own_steps(self.bench.runs, self.bench.run, self.bench.run.feed)}
        shared = [s for s in self.bench.run.feed if s.piece.id not in own]
        if not any(isinstance(s.piece, Conductor) for s in shared):
            return None
        if not self._feed_length("own-feed"):
            return None
        fuse = self._fuse("own-feed")
        return None if fuse is None else OwnFeed(*fuse)

    def _in_series(self, move: str, end: int | None = None) -> bool:
        """Whether another load lies between this one and where a new way would lead."""
        string = self.bench.run.string
        between = len(string) > 1 if end is None else string[end] != self.bench.load_id
        if between:
            self.refused.append(NotOffered(move, "in_series", {}))
        return between

    def _relay(self) -> RelayNearLoad | None:
        if self._in_series("relay"):
            return None
        if self.bench.switch is None:
            self.refused.append(NotOffered("relay", "no_switch", {}))
            return None
        if self.bench.regulated:
            self.refused.append(NotOffered("relay", self.bench.regulated, {}))
            return None
        if not self._feed_length("relay"):
            return None
        fuse = self._fuse("relay")
        relay = self._fitting_relay()
        return None if fuse is None or relay is None else RelayNearLoad(relay, *fuse)

    def _fitting_relay(self) -> Relay | None:
        """The cheapest relay for this voltage whose contact bears the load; a plain one comes first."""
        load, nominal = self.bench.run.load, self.bench.craft.nominal_v
        _, running, _ = self.bench.draws
        for_volts = [r for r in self.bench.tables.stock.relays.values() if r.coil_v == nominal]
        if not for_volts:
            self.refused.append(NotOffered("relay", "no_coil", {"volts": nominal}))
            return None
        fit = [r for r in for_volts if r.bears_a(load) >= running]
        if not fit:
            most = max(r.bears_a(load) for r in for_volts)
            self.refused.append(NotOffered("relay", "contact", {"amperes": running, "most": most}))
            return None
        return min(fit, key=lambda r: (r.changeover, r.price))


def sized(piece: Conductor | FixedPiece) -> bool:
    """Whether a piece is a wire whose size is known, which can be made thicker."""
    return isinstance(piece, Conductor) and piece.size is not None and not undrawn(piece)
