"""What a craft allows each of its pieces, so that every ceiling of every run holds.

Fixed pieces get their aged but acceptable resistance times the loaded current, never more than the
single-piece ceiling. What they leave goes to the copper of the whole craft at once: ohms that hold the
least copper and keep every ceiling in every scenario (see `least_copper`). Ohms times the current in
the scenario that is shown are a conductor's allowance there.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.columns import Floats, Ints
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.pieces import SIDES, Side

from .least_copper import CopperProgramme
from .loops import Loops


@dataclass(frozen=True, slots=True)
class Allowance:
    """What a piece may drop (V), how that came about, and whose run binds it.

    `rule` is aged (its aged resistance), ceiling (the single-piece ceiling), copper (its share of
    what the fixed pieces of all runs leave), squeezed (fixed pieces alone exceed the side), purpose (a
    resistor), own (a conductor of unknown length), pinned (a person fixed it).
    """

    volts: float
    rule: str
    load_id: str


def step_current_a(step: Step, solution: Solution) -> float:
    """Current (A) through a step in the run's direction.

    Args:
        solution: volts by point and the state of every element, as solved.
    """
    current = solution.elements[step.piece.id].current_a
    return current if step.forward else -current


def step_drop_v(step: Step, solution: Solution) -> float:
    """Volts lost over a step in the run's direction; an open contact keeps back all there is.

    Args:
        solution: volts by point and the state of every element, as solved.
    """
    drop = solution.elements[step.piece.id].drop_v or 0.0
    return drop if step.forward else -drop


class FixedShares:
    """What the fixed pieces of a craft get at some currents, and leave to its copper.

    Args:
        amperes: what each piece carries (A), (pieces,).
        drawn: what the load of each run draws (A), (runs,).
        drops: what each piece drops (V), (pieces,): a wire of unknown length is allowed that.
        loops: the runs as arrays.

    Where the fixed pieces of a run's side exceed a ceiling they shrink to fit; what a person pinned
    shrinks last. A piece that several loaded runs pass gets the least of what they would give it.

    Attributes:
        wanted: what each piece would have without the ceilings (V), (pieces,).
    """

    def __init__(
        self, loops: Loops, amperes: Floats, drawn: Floats, drops: Floats | None = None
    ) -> None:
        self.loops = loops
        self.amperes, self.loaded = np.abs(amperes), drawn != 0
        wanted = loops.own_volts + np.minimum(loops.ohm * self.amperes, loops.most_v)
        if drops is not None:
            wanted[loops.own] = np.abs(drops[loops.own])
        self.wanted: Floats = np.where(loops.copper, 0.0, wanted)

    @classmethod
    def at(cls, loops: Loops, solution: Solution) -> "FixedShares":
        """At the currents of a solution.

        Args:
            loops: the runs as arrays.
        """
        states = solution.elements
        drawn = np.array([states.current_a(key) for key in loops.run_ids], dtype=float)
        return cls(loops, states.piece_currents_a, drawn, states.piece_drops_v)

    @property
    def left(self) -> Floats:
        """What each run has left (V) when its fixed pieces have what it can pay them, (runs, 3)."""
        return self._squeezed[2]

    @cached_property
    def _squeezed(self) -> tuple[dict[Side, Floats], dict[Side, Floats], Floats]:
        """By side, the share that each run pays of pins and of other demands, (runs,); what it has left."""
        loops, wanted = self.loops, self.wanted
        pins = {s: on @ (wanted * loops.pinned) for s, on in loops.on_side.items()}
        rest = {s: on @ (wanted * loops.fixed) for s, on in loops.on_side.items()}
        pin_share, rest_share = {}, {}
        left = np.full((len(loops.run_ids), 3), math.inf)
        for i, side in enumerate(SIDES):
            pin_share[side], rest_share[side], left[:, i] = _fitted(
                pins[side], rest[side], loops.ceilings[:, i]
            )
        pinned = sum(pins[s] * pin_share[s] for s in SIDES)
        others = sum(rest[s] * rest_share[s] for s in SIDES)
        more_pin, more_rest, left[:, 2] = _fitted(
            np.asarray(pinned), np.asarray(others), loops.ceilings[:, 2]
        )
        for side in SIDES:
            pin_share[side] = pin_share[side] * more_pin
            rest_share[side] = rest_share[side] * more_rest
        return pin_share, rest_share, left

    def _share(self, row: int, side: Side, column: int) -> float:
        """The share of its demand that a run can pay a piece on a side."""
        pins, rest, _ = self._squeezed
        if self.loops.pinned[column]:
            return float(pins[side][row])
        return float(rest[side][row]) if self.loops.fixed[column] else 1.0

    @cached_property
    def _least(self) -> tuple[Floats, Ints]:
        """The least share that a loaded run pays each piece, and the run that cannot pay all (-1: none)."""
        loops = self.loops
        least, who = np.ones(len(loops.ids)), np.full(len(loops.ids), -1)
        short = [pays[s] < 1 for pays in self._squeezed[:2] for s in SIDES]
        for row in np.flatnonzero(np.any(short, axis=0) & self.loaded).tolist():
            for side in SIDES:
                for column in np.flatnonzero(loops.on_side[side][row]).tolist():
                    share = self._share(row, side, column)
                    if share < least[column]:
                        least[column], who[column] = share, row
        return least, who

    def allowance(self, key: str, run: str) -> Allowance:
        """What a piece that is not copper gets: the least of the loaded runs', else of its own run.

        Args:
            key: the id of the piece.
        """
        loops = self.loops
        column, row = loops.column[key], loops.row[run]
        least, who = self._least
        share, owner = float(least[column]), int(who[column])
        side = loops.runs[run].main[key]
        own = self._share(row, side, column)
        if own <= share:
            share, owner = own, row
        rule = str(loops.rules[column])
        wanted = float(self.wanted[column])
        if rule == "aged" and loops.ohm[column] * self.amperes[column] > loops.most_v[column]:
            rule = "ceiling"
        if rule != "purpose" and share < 1:
            rule = "squeezed"
        return Allowance(wanted * share, rule, loops.run_ids[owner])

    def eaters(self, run: str, side: Side) -> tuple[str, ...]:
        """The fixed pieces that leave the copper of a run's side nothing, the hungriest first."""
        loops, row = self.loops, self.loops.row[run]
        if not (loops.on_side[side][row] & loops.copper).any():
            return ()
        ate = [s for i, s in enumerate(SIDES) if s == side and self.left[row, i] <= 0]
        if self.left[row, 2] <= 0:
            ate = list(SIDES)
        fed = {
            loops.ids[i]: float(self.wanted[i] * self._share(row, s, i))
            for s in ate
            for i in np.flatnonzero(loops.on_side[s][row] & (loops.fixed | loops.pinned)).tolist()
        }
        return tuple(sorted((k for k, v in fed.items() if v), key=lambda key: -fed[key]))

    def lines(self) -> "CopperLines":
        """What each ceiling of each loaded run leaves to the copper it counts."""
        loops = self.loops
        least, _ = self._least
        paid = self.wanted * np.where(loops.purpose, 0.0, least)
        feed, back = (loops.on_side[s] for s in SIDES)
        left, amperes, who, under = [], [], [], []
        for i, on in enumerate((feed, back, feed | back)):
            copper = on & loops.copper
            here = np.isfinite(loops.ceilings[:, i]) & self.loaded & copper.any(axis=1)
            rows = np.flatnonzero(here)
            left.append(loops.ceilings[rows, i] - on[rows] @ paid)
            amperes.append(copper[rows] * self.amperes)
            who.append(rows)
            under.append(np.full(len(rows), i))
        return CopperLines(
            np.concatenate(left),
            np.concatenate(amperes),
            np.concatenate(who),
            np.concatenate(under),
        )


def _fitted(pins: Floats, rest: Floats, ceiling: Floats) -> tuple[Floats, Floats, Floats]:
    """The shares of pins and of other fixed demands that a ceiling pays, and what is left of it (V)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        pin_share = np.where(pins > ceiling, ceiling / pins, 1.0)
        after = np.maximum(ceiling - pins, 0.0)
        rest_share = np.where(rest > after, after / rest, 1.0)
    return pin_share, rest_share, np.maximum(after - rest, 0.0)


class CopperLines(NamedTuple):
    """What ceilings leave to copper: V (lines,), A of each piece (lines, pieces), runs, which ceiling."""

    left: Floats
    amperes: Floats
    runs: Ints
    under: Ints


DIGITS = 10
"""Demands that agree to so many decimals are one."""
NOTHING_A = 1e-6
"""Less than this counts as no current."""


class CopperOhms:
    """What every conductor of a craft may have (ohm), by id, and the run that binds it.

    One programme over all runs, in all the moments given. A conductor that no run loads has nothing.
    """

    def __init__(self, moments: Sequence[FixedShares]) -> None:
        loops = moments[0].loops
        shared = _shared(_Given(moments))
        self.ohms = {loops.ids[i]: 0.0 for i, _ in shared.starved}
        self.bound_by = {loops.ids[i]: loops.run_ids[run] for i, run in shared.starved}
        if shared.programme is None:
            return
        lengths = np.bincount(shared.group, weights=loops.metres[shared.used]).astype(float)
        ohms, price = _least(shared.programme, _rounded(lengths))
        binding = (shared.amperes * price[:, None]).argmax(axis=0)
        keys = [loops.ids[i] for i in shared.used.tolist()]
        of_each = (ohms / lengths)[shared.group] * loops.metres[shared.used]
        self.ohms.update(zip(keys, of_each.tolist(), strict=True))
        runs = shared.runs[binding][shared.group].tolist()
        self.bound_by.update(zip(keys, (loops.run_ids[run] for run in runs), strict=True))


class Shared(NamedTuple):
    """What shares the copper of a craft out, whatever its lengths are.

    `starved`: conductors that some run's fixed pieces leave nothing, each with that run. The others,
    `used`, stand in `group`s, those that stand in the same lines as one: what each group carries in
    each line, (lines, groups), whose run that is, and what gives the groups their ohms; None where there
    is none.
    """

    starved: tuple[tuple[int, int], ...]
    used: Ints
    group: Ints
    amperes: Floats
    runs: Ints
    programme: CopperProgramme | None


class _Given:
    """Moments, told apart by all that the lines of their ceilings rest on."""

    def __init__(self, moments: Sequence[FixedShares]) -> None:
        self.moments = moments
        loops = moments[0].loops
        parts = [
            *(loops.on_side[s] for s in SIDES),
            loops.copper,
            loops.pinned,
            loops.purpose,
            loops.own,
        ]
        parts += [loops.ceilings]
        parts += [part for m in moments for part in (m.wanted, m.amperes, m.loaded)]
        self.told_by = (len(loops.ids), *(part.tobytes() for part in parts))

    def __hash__(self) -> int:
        return hash(self.told_by)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Given) and self.told_by == other.told_by


@lru_cache(maxsize=16)
def _shared(given: _Given) -> Shared:
    """Remembered: an edit of a length changes nothing here."""
    parts = [moment.lines() for moment in given.moments]
    lines = CopperLines(*(np.concatenate(each) for each in zip(*parts, strict=True)))
    lines.amperes[lines.amperes <= NOTHING_A] = 0.0
    starving = lines.left <= ROUNDING
    starved: dict[int, int] = {}
    for number in np.flatnonzero(starving):
        for i in np.flatnonzero(lines.amperes[number]):
            starved.setdefault(int(i), int(lines.runs[number]))
    lines.amperes[:, list(starved)] = 0.0
    kept = np.flatnonzero(~starving & (lines.amperes > 0).any(axis=1))
    used = np.flatnonzero((lines.amperes[kept] > 0).any(axis=0))
    amperes = lines.amperes[np.ix_(kept, used)]
    telling = _telling(amperes / lines.left[kept, None], lines.runs[kept] * 3 + lines.under[kept])
    kept, amperes = kept[telling], amperes[telling]
    first, group = _alike(amperes)
    amperes, left = amperes[:, first], lines.left[kept]
    programme = _programme(_rounded(amperes), _rounded(left), len(left)) if len(used) else None
    return Shared(tuple(starved.items()), used, group, amperes, lines.runs[kept], programme)


@lru_cache(maxsize=16)
def _programme(amperes: bytes, left: bytes, lines: int) -> CopperProgramme:
    return CopperProgramme(np.frombuffer(amperes).reshape(lines, -1), np.frombuffer(left))


@lru_cache(maxsize=16)
def _least(programme: CopperProgramme, lengths: bytes) -> tuple[Floats, Floats]:
    """Remembered: most edits change nothing that it rests on."""
    return programme.least(np.frombuffer(lengths))


def _rounded(column: Floats) -> bytes:
    return np.round(column, DIGITS).tobytes()


def _alike(amperes: Floats) -> tuple[Ints, Ints]:
    """Which columns are the first of their sort, and the number of each column's sort."""
    first: dict[bytes, int] = {}
    group: list[int] = []
    at: list[int] = []
    for i, column in enumerate(np.ascontiguousarray(np.round(amperes, 9).T)):
        key = column.tobytes()
        if key not in first:
            first[key] = len(at)
            at.append(i)
        group.append(first[key])
    return np.array(at, dtype=np.intp), np.array(group, dtype=np.intp)


def _telling(share: Floats, ceiling: Ints) -> Ints:
    """The numbers of the lines that no other line of the same ceiling covers."""
    kept: dict[int, list[int]] = {}
    for number, name in enumerate(ceiling.tolist()):
        rivals = kept.setdefault(name, [])
        if any((share[rival] >= share[number]).all() for rival in rivals):
            continue
        rivals[:] = [rival for rival in rivals if not (share[number] >= share[rival]).all()]
        rivals.append(number)
    return np.array(sorted(n for each in kept.values() for n in each), dtype=np.intp)


class Allowances:
    """What every piece may drop at the currents of one moment, with ohms that hold in all of them.

    Args:
        shown: what the fixed pieces get in that moment.
        solution: volts by point and the state of every element, as solved.
        copper: the ohms that all moments leave to the copper.
    """

    def __init__(self, shown: FixedShares, solution: Solution, copper: CopperOhms) -> None:
        self.shown, self.solution, self.copper = shown, solution, copper

    def of(self, run: Run) -> dict[str, Allowance]:
        """The allowance of every piece of a run, by id."""
        out = {key: self._own(key, run.load.id) for key in run.main}
        for step in run.steps():
            if step.piece.id not in out:
                out[step.piece.id] = Allowance(self._beside(run, step, out), "copper", run.load.id)
        return out

    def _own(self, key: str, run: str) -> Allowance:
        loops = self.shown.loops
        column = loops.column[key]
        if not loops.copper[column]:
            return self.shown.allowance(key, run)
        ohm = self.copper.ohms.get(key, 0.0)
        bound_by = self.copper.bound_by.get(key, run)
        return Allowance(ohm * float(self.shown.amperes[column]), "copper", bound_by)

    def _beside(self, run: Run, step: Step, main: Mapping[str, Allowance]) -> float:
        """Ways beside share their group's volts in the proportion in which they drop them."""
        solution = self.solution
        steps = [s for s in run.steps() if s.group == step.group and not s.beside]
        allowed = sum(main[s.piece.id].volts for s in steps)
        spent = sum(abs(step_drop_v(s, solution)) for s in steps)
        part = abs(step_drop_v(step, solution)) / spent if spent else 0.0
        return allowed * min(part, 1.0)

    def eaters(self, run: Run, side: Side) -> tuple[str, ...]:
        """The fixed pieces that leave the copper of a run's side nothing."""
        return self.shown.eaters(run.load.id, side)
