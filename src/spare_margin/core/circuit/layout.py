"""A craft in a scenario, laid out as index arrays: what the equations are made from.

A layout never changes once it is made, so that whatever is solved with it can be kept and shared.
"""

import math
from collections.abc import Mapping, Sequence
from functools import cached_property, lru_cache
from itertools import compress

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from spare_margin.core.columns import Floats, Ints, differing, with_others
from spare_margin.core.model.conductors import Warmth
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, Scenario
from spare_margin.core.model.tables import Tables

from .loads import LoadLaws, laws_of, rated_current_a
from .resistances import TableOhms
from .runs import hang_alike

EQUAL_OHM = 1e-9
"""What pieces without resistance get where they close a loop: they share the current as equals."""


class Layout:
    """Points, pieces, loads that are on and sources of a craft as arrays; ends have shape (2, n).

    Args:
        resistances: ohms that rule over everything else, by piece id; infinity is open.
        like: another layout: what does not differ is taken over from it. A craft that hangs together
            alike (see `hang_alike`) differs in the ohms of single pieces.
        scenario: the state of the craft that is asked about.
        tables: the reference tables.

    Raises:
        JobError: a piece without a resistance.
    """

    columns: dict[str, int]
    """The place of each piece among all of the craft's; `places` has those that are closed."""
    loads: list[Load]
    load_ends: Ints
    rated: LoadLaws
    drawn: Floats
    cold: Floats
    warms: NDArray[np.bool_]
    warmth: Warmth

    def __init__(
        self,
        craft: Craft,
        scenario: Scenario,
        tables: Tables,
        resistances: Mapping[str, float] | None = None,
        like: "Layout | None" = None,
    ) -> None:
        self.craft, self.scenario, self.tables = craft, scenario, tables
        self.ruled = dict(resistances or {})
        if like is not None and self._pieces_as(like):
            self._take_pieces(like)
        else:
            self._lay_pieces()
        if like is not None and self._loads_as(like):
            self.loads, self.load_ends, self.rated = like.loads, like.load_ends, like.rated
        else:
            self.loads = [load for load in craft.loads if load.id in scenario.on]
            self.load_ends = self._ends([(load.start, load.end) for load in self.loads])
            self.rated = laws_of(self.loads, craft.nominal_v)
        self.source_ends = self._ends([(s.back, s.live) for s in craft.sources])
        sources = [scenario.source(s) for s in craft.sources]
        self.emf = np.array([s.open_circuit_v for s in sources], dtype=float)
        self.internal = np.array([s.internal_ohm for s in sources], dtype=float)
        self._connect()

    def _lay_pieces(self) -> None:
        """Points and pieces: their places, their ends, their ohms."""
        craft, scenario = self.craft, self.scenario
        self.index = {point.id: i for i, point in enumerate(craft.points)}
        apart = {key for key, ohm in self.ruled.items() if ohm == math.inf}
        self.closed = np.array(
            [not scenario.is_open(p) and p.id not in apart for p in craft.pieces], dtype=bool
        )
        self.pieces = list(compress(craft.pieces, self.closed))
        self.all_ends = self._ends([(p.start, p.end) for p in craft.pieces])
        self.piece_ends = self.all_ends[:, self.closed]
        self.places = {p.id: i for i, p in enumerate(self.pieces)}
        self.columns = {p.id: i for i, p in enumerate(craft.pieces)}
        self.element_ids = [e.id for e in (*craft.pieces, *craft.loads)]
        self._weigh()

    def _pieces_as(self, like: "Layout") -> bool:
        """Whether the same pieces stand closed between the same points as in another layout."""
        return (
            like.tables is self.tables
            and not (self.ruled or like.ruled)
            and self.scenario.contacts == like.scenario.contacts
            and (like.craft is self.craft or hang_alike(like.craft, self.craft))
            and all(a.open == b.open for _, a, b in differing(like.craft.pieces, self.craft.pieces))
        )

    def _loads_as(self, like: "Layout") -> bool:
        """Whether the same loads are on between the same points as in another layout."""
        return (
            like.index is self.index
            and like.scenario.on == self.scenario.on
            and like.craft.nominal_v == self.craft.nominal_v
            and not differing(like.craft.loads, self.craft.loads)
        )

    def _take_pieces(self, like: "Layout") -> None:
        self.index, self.places, self.columns = like.index, like.places, like.columns
        self.element_ids = like.element_ids
        self.closed, self.all_ends, self.piece_ends = like.closed, like.all_ends, like.piece_ends
        changed = differing(like.craft.pieces, self.craft.pieces)
        if not changed:
            self.pieces, self.drawn, self.cold = like.pieces, like.drawn, like.cold
            self.warms, self.warmth = like.warms, like.warmth
            return
        self.pieces = list(compress(self.craft.pieces, self.closed))
        self._weigh(like, [self.places[b.id] for _, _, b in changed if b.id in self.places])

    @cached_property
    def elements(self) -> dict[str, Conductor | FixedPiece | Load]:
        """Every element by its id."""
        return {e.id: e for e in (*self.craft.pieces, *self.craft.loads)}

    def laws(self, starting: frozenset[str]) -> LoadLaws:
        """What the loads draw while some of them start.

        A lamp or a resistor draws by its own law even where only another load joins it to the supply (two
        lamps one behind the other). What would hold its current or power there stands in as a resistor
        of its rated current: see `stood_in`.

        Args:
            starting: the ids of the loads that start.
        """
        times = np.ones(len(self.loads))
        for i, load in enumerate(self.loads):
            if load.id in starting:
                times[i] = load.start_multiple or 1.0
        scale, power = self.rated.scale * times, self.rated.power
        if self.stood_in.any():
            nominal = self.craft.nominal_v
            rated = [rated_current_a(load, nominal) / nominal for load in self.loads]
            scale = np.where(self.stood_in, np.array(rated, dtype=float), scale)
            power = np.where(self.stood_in, 1.0, power)
        return LoadLaws(scale, power, self.rated.knee_v)

    @cached_property
    def stood_in(self) -> NDArray[np.bool_]:
        """Loads that stand as resistors: in no supply's loop, two of them could not agree on a current."""
        return ~self.supplied & (self.rated.power <= 0)

    def _ends(self, pairs: list[tuple[str, str]]) -> Ints:
        ends = [(self.index[a], self.index[b]) for a, b in pairs]
        return np.array(ends, dtype=np.intp).reshape(-1, 2).T

    def _connect(self) -> None:
        """Find what hangs together, with and without the loads, and ground each part once."""
        wires = np.concatenate([self.piece_ends, self.source_ends], axis=1)
        reference = self.index[self.craft.reference]
        self.supplied, self.connected, self.free = _connected(
            wires.tobytes(), self.load_ends.tobytes(), len(self.index), reference
        )

    def _weigh(self, like: "Layout | None" = None, anew: Sequence[int] | None = None) -> None:
        """Each piece's ohms at 20 C, whether temperature changes them, and how warm it gets.

        `like` has all of it but for the pieces at the places `anew`.
        """
        anew = range(len(self.pieces)) if anew is None else anew
        ohms: list[float] = []
        warming: list[Conductor | None] = []
        of_table = TableOhms(self.tables)
        for piece in (self.pieces[i] for i in anew):
            own = self.ruled.get(piece.id, piece.resistance_ohm)
            ohms.append(of_table.of(piece) if own is None else own)
            warming.append(piece if own is None and isinstance(piece, Conductor) else None)
        self.warmth = Warmth.of(warming, self.tables.conductors)
        self.warms = np.array([wire is not None for wire in warming], dtype=bool)
        self.drawn = np.array(ohms, dtype=float)
        if like is not None:
            at = list(anew)
            self.drawn = with_others(like.drawn, at, self.drawn)
            self.warms = with_others(like.warms, at, self.warms)
            self.warmth = like.warmth.with_others(at, self.warmth)
        self.cold = self.drawn.copy()
        self.cold[self._looped(self.cold == 0)] = EQUAL_OHM

    def _looped(self, none: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Which pieces without resistance lie in a part where some close a loop among themselves."""
        if none.sum() < 2:
            return np.zeros_like(none)
        parts = _parts(self.piece_ends[:, none], len(self.index))
        _, of_point, points = np.unique(parts, return_inverse=True, return_counts=True)
        of_piece = of_point[self.piece_ends[0]]
        pieces = np.bincount(of_piece[none], minlength=len(points))
        looped: NDArray[np.bool_] = none & (pieces >= points)[of_piece]
        return looped


@lru_cache(maxsize=256)
def _connected(
    wires: bytes, loads: bytes, n: int, reference: int
) -> tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.bool_]]:
    """Loads that wires join to a supply; points that hang with the reference; points that are free.

    `wires` and `loads` are ends as bytes. Remembered: most wirings that are asked about
    differ in ohms alone.
    """
    ends, load_ends = (np.frombuffer(each, dtype=np.intp).reshape(2, -1) for each in (wires, loads))
    with_loads = np.concatenate([ends, load_ends], axis=1)
    island = _parts(ends, n)
    supplied = island[load_ends[0]] == island[load_ends[1]]
    whole = _parts(with_loads, n)
    touched = np.zeros(n, dtype=bool)
    touched[with_loads.ravel()] = True
    connected = touched & (whole == whole[reference])
    grounds = np.unique(whole, return_index=True)[1]
    grounds[whole[reference]] = reference
    free = np.ones(n, dtype=bool)
    free[grounds] = False
    for each in (supplied, connected, free):
        each.flags.writeable = False
    return supplied, connected, free


def _parts(ends: Ints, n: int) -> NDArray[np.int32]:
    """A label for each point, the same for points that these ends join."""
    graph = coo_array((np.ones(ends.shape[1]), (ends[0], ends[1])), shape=(n, n))
    labels: NDArray[np.int32] = connected_components(graph, directed=False)[1]
    return labels
