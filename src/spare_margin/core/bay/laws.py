"""What must hold of every answer, against the truth of a world.

Where a gross mistake stands among the readings, an answer need only agree with some circuit that gives all
of them: what can be held against it is that a contradiction names the mistake.
"""

from collections.abc import Callable, Iterator, Mapping

from spare_margin.core.bounds.conclude import Concluded
from spare_margin.core.bounds.conclusion import AgainstLimit
from spare_margin.core.bounds.held import Judged
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.model.pieces import SIDES, Scenario, Side

from .people import Person
from .world import World

CLOSE_V = 2e-4
"""What rounding of the two solutions may differ by (V)."""
Drawn = Callable[[Scenario], Mapping[str, float]]


def broken(who: Person, found: Concluded, drawn: Drawn) -> list[str]:
    """The laws that an answer breaks, each in a few words; none where all hold.

    Args:
        who: whoever read.
        found: what was answered.
        drawn: what each load draws in a scenario.
    """
    return list(_broken(who, found, drawn))


def _broken(who: Person, found: Concluded, drawn: Drawn) -> Iterator[str]:
    made = found.conclusion
    yield from _agree(found)
    yield from _bounded(who.world, found)
    if made.headline == "contradiction":
        if who.mistakes and not who.mistakes & set(made.contradicting):
            yield f"a contradiction of {made.contradicting}, the mistake is {sorted(who.mistakes)}"
        if not who.mistakes and not who.world.feeds_in:
            yield f"a contradiction of {made.contradicting}, and nothing is wrong with them"
        return
    if who.mistakes or who.world.feeds_in or found.judged is None or made.conditions is None:
        return
    moment = made.conditions.moment or ""
    yield from _opens(who.world, found, moment)
    if made.headline in ("open", "no_current", "not_read"):
        return
    truth = _Truth(who, found.judged, moment, drawn)
    for part in (*(made.sides or {}).values(), made.together):
        if part is not None:
            yield from _part(truth, part)
    yield from _pieces(truth, found)


# The truth


class _Truth:
    """What truly is lost in the moment that counts."""

    def __init__(self, who: Person, judged: Judged, moment: str, drawn: Drawn) -> None:
        self.who, self.judged, self.moment, self.drawn = who, judged, moment, drawn
        self._loaded: dict[str, SolvedCraft] = {}

    def loaded(self, scenario: Scenario) -> SolvedCraft:
        if scenario.id not in self._loaded:
            own = self.who.world.run.load.id
            drawn = dict(self.drawn(scenario))
            drawn[own] = drawn.get(own, 0.0) * self._times
            self._loaded[scenario.id] = self.who.world.loaded(self.moment, scenario, drawn)
        return self._loaded[scenario.id]

    @property
    def _times(self) -> float:
        """What the run's load truly drew when it was clamped, of what is drawn, where that is more."""
        should = self.drawn(self.judged.moment.conditions.scenario).get(
            self.who.world.run.load.id, 0.0
        )
        most = max((abs(self.drew(s)) for s in self._clamped or self._states), default=0.0)
        return max(most / should, 1.0) if should else 1.0

    def drew(self, solved: SolvedCraft) -> float:
        return solved.solution.elements[self.who.world.run.load.id].current_a

    @property
    def _clamped(self) -> list[SolvedCraft]:
        """The craft at each instant at which the current was read."""
        own = [r for r in self.who.readings if r.moment == self.moment]
        instants = self.who.instants.get(self.moment, ())
        states = [
            self.who.world.solved(self.moment, t)
            for r, t in zip(own, instants, strict=True)
            if r.quantity == "amperes"
        ]
        return [s for s in states if s is not None]

    @property
    def _states(self) -> list[SolvedCraft]:
        instants = self.who.instants.get(self.moment, ())
        states = [self.who.world.solved(self.moment, t) for t in instants]
        return [s for s in states if s is not None]

    def lost(self, solved: SolvedCraft, side: Side) -> float:
        parts = (s for s in self.who.world.run.sections(side) if not s.on_purpose)
        return sum(solved.solution.volts(s.start, s.end) or 0.0 for s in parts)

    def part(self, solved: SolvedCraft, name: str) -> float:
        sides = SIDES if name == "together" else tuple(s for s in SIDES if s == name)
        return sum(self.lost(solved, side) for side in sides)

    def ran(self, name: str) -> list[float]:
        """What a part lost at each instant at which something was read."""
        return [self.part(s, name) for s in self._states]


def _part(truth: _Truth, part: AgainstLimit) -> Iterator[str]:
    limit = part.limit_v
    if limit is None:
        return
    loaded = [truth.part(truth.loaded(s), part.part) for s in truth.judged.scenarios]
    ran = truth.ran(part.part)
    match part.verdict:
        case "within" if max(loaded) > limit + CLOSE_V:
            yield f"{part.part} within {limit}, truly {max(loaded):.4f}"
        case "over" if max(loaded) <= limit - CLOSE_V:
            yield f"{part.part} over {limit}, truly {max(loaded):.4f}"
        case "within_as_ran" if ran and min(ran) > limit + CLOSE_V:
            yield f"{part.part} within {limit} as it ran, truly {min(ran):.4f}"
        case "over_as_ran" if ran and max(*ran, *loaded) <= limit - CLOSE_V:
            yield f"{part.part} over {limit} as it ran, truly {max(*ran, *loaded):.4f}"


def _pieces(truth: _Truth, found: Concluded) -> Iterator[str]:
    judged = truth.judged
    solved = truth.loaded(judged.worst)
    drops = {
        s.piece.id: abs(solved.solution.volts(s.entry, s.exit) or 0.0)
        for s in truth.who.world.run.steps()
    }
    for each in found.conclusion.found:
        if each.allowed_v is not None and drops[each.piece] <= each.allowed_v - CLOSE_V:
            yield f"{each.piece} found, {drops[each.piece]:.4f} of {each.allowed_v:.4f}"
    for piece in found.conclusion.cleared:
        if drops[piece] > judged.allowances[piece] + CLOSE_V:
            yield f"{piece} cleared, {drops[piece]:.4f} of {judged.allowances[piece]:.4f}"
    between = found.conclusion.between
    inside = truth.who.world.run.between(*between) if between else None
    if inside is not None:
        own = [p for p in inside.pieces if p in drops]
        lost = sum(drops[p] for p in own)
        allowed = sum(judged.allowances[p] for p in own)
        if lost <= allowed - CLOSE_V:
            yield f"between {between}: {lost:.4f} of {allowed:.4f}"


def _opens(world: World, found: Concluded, moment: str) -> Iterator[str]:
    made = found.conclusion
    for each in made.found:
        if each.kind == "open" and not any(world.is_open(each.piece, m.id) for m in world.moments):
            yield f"{each.piece} open, and it is not"
    if made.headline == "open" and made.between is not None:
        inside = world.run.between(*made.between)
        pieces = inside.pieces if inside else ()
        if not any(world.is_open(p, m.id) for p in pieces for m in world.moments):
            yield f"open between {made.between}, and nothing is"
    if made.headline == "no_current":
        run = world.run
        if not any(world.is_open(s.piece.id, moment) for s in run.steps()):
            yield "nothing flowed, and it does"


# What holds whatever is true


def _agree(found: Concluded) -> Iterator[str]:
    """No two statements of one answer contradict each other."""
    made = found.conclusion
    names = {f.piece for f in made.found}
    if names & made.cleared:
        yield f"{names & made.cleared} both found and cleared"
    if made.headline in ("within", "within_as_ran") and (names or made.between):
        yield "within, and a piece is found"
    if made.found and made.between is not None:
        yield "found, and between"
    if made.sides is None or made.together is None:
        return
    over = [p for p in (*made.sides.values(), made.together) if "over" in p.verdict]
    if made.headline in ("within", "within_as_ran") and over:
        yield f"within, and {over[0].part} is over"
    if made.headline in ("over", "over_as_ran") and not over:
        yield "over, and no part is"
    both = [p.verdict for p in made.sides.values()]
    if all(v == "within" for v in both) and made.together.verdict == "over":
        held = [p.limit_v for p in made.sides.values()]
        limit = made.together.limit_v
        if limit is not None and None not in held and limit >= sum(h or 0.0 for h in held):
            yield "both sides within, and over together"


def _bounded(world: World, found: Concluded) -> Iterator[str]:
    """No figure is beyond the source's volts, and no range is inside out."""
    made = found.conclusion
    top = max(s.open_circuit_v for s in world.craft.sources) + 0.1 * world.craft.nominal_v
    top += max((s.open_circuit_v for s in world.extra_sources), default=0.0)
    for part in (*(made.sides or {}).values(), made.together):
        for held in () if part is None else (part.ran, part.loaded):
            if held.low is not None and held.high is not None and held.low > held.high + CLOSE_V:
                yield f"{part.part if part else ''}: from {held.low} to {held.high}"
        if part is not None and part.loaded.low is not None and part.loaded.low > top:
            yield f"{part.part} loses {part.loaded.low:.2f} of {top:.2f}"
