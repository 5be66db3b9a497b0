"""The account of a measured run: source = feed + load + return + what is unaccounted for.

Judges every reading before any verdict rests on it, then the pieces, the sides and the run.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from .budget import PieceBudget, RunBudget, SideBudget
from .headroom import Headroom, own_pair
from .jobs import Reading
from .pieces import Conductor, Side, called
from .reading_checks import Finding, ends_of, held, pieces_of, source_moved, usable, warm
from .readings import Evidence, Measured, Verdict, current_proven, live_readings, verdict, worst

SCALE_WITHIN = 5.0
"""A measured current further than this factor from the loaded one says nothing of the budget."""

TABLE_SHARE = 0.08
"""A good wire's ohms stand within this share of what the tables say."""
WARM_W, BURN_W = 0.5, 2.0
"""Watts in one small joint that deserve a look, and that are a burn or fire hazard."""


@dataclass(frozen=True, slots=True)
class Judged:
    """A measured span against its allowance, at the loaded current. `raw` is what was read."""

    raw: Measured
    loaded: Measured
    verdict: Verdict
    spare_v: float | None


@dataclass(frozen=True, slots=True)
class RunAccount:
    """Everything the readings of one pass say about one run."""

    pieces: dict[str, Judged]
    sides: dict[Side, Judged]
    source: Measured | None
    load: Measured | None
    clamp_a: float | None
    unaccounted: Measured | None
    closes: bool | None
    verdict: Verdict
    guilty: str | None
    findings: tuple[Finding, ...]
    set_aside: frozenset[str]


def account(
    budget: RunBudget, readings: Iterable[Reading], nominal_v: float, stale: frozenset[str]
) -> RunAccount:
    """Judge one pass of readings against a run's budget.

    Args:
        budget: the run's budget in the scenario in which the readings were taken.
        readings: all readings of the pass, superseded ones included.
        nominal_v: the craft's nominal voltage.
        stale: ids of readings taken before the wiring they crossed was changed.
    """
    live = live_readings(readings)
    findings: list[Finding] = []
    for hot in (r for r in live if r.quantity == "kelvin" and r.value is not None):
        findings.extend(warm(hot, budget))
    findings.extend(held(live))
    live = [r for r in live if r.quantity != "kelvin" and not r.hold]
    believed = list(usable(live, budget, nominal_v, stale, findings))
    evidence = Evidence(believed)
    clamp = _clamp(believed)
    run = budget.run
    source = evidence.drop(run.source.live, run.source.back)
    load = evidence.drop(run.feed_terminal, run.return_terminal)
    raw = {p.step.piece.id: m for p in pieces_of(budget) if (m := evidence.drop(*ends_of(p)))}
    raw_sides = {s.side: m for s in budget.sides if (m := evidence.drop(*run.ends(s.side)))}
    loaded = _loadedness(budget, raw, raw_sides, clamp, findings)
    factor = _factor(budget, clamp, findings)

    pieces = {
        p.step.piece.id: _judge(
            raw[p.step.piece.id], p.allowance.volts, _scale(p, budget, factor), loaded
        )
        for p in pieces_of(budget)
        if p.step.piece.id in raw
    }
    sides = {
        s.side: _judge_side(raw_sides[s.side], s, budget, factor, loaded)
        for s in budget.sides
        if s.side in raw_sides
    }
    unaccounted, closes = _close(source, load, raw_sides, findings)
    source_moved(live, budget, nominal_v, findings)
    _coarse(budget, pieces, findings)
    _sums(budget, evidence, findings)
    _hot(budget, pieces, findings)
    guilty = _guilty(budget, pieces)
    return RunAccount(
        pieces,
        sides,
        source,
        load,
        clamp,
        unaccounted,
        closes,
        _run_verdict(budget, sides, pieces, loaded),
        guilty,
        tuple(findings),
        frozenset(r.id for r in live) - {r.id for r in believed},
    )


# Current


def _clamp(usable: Sequence[Reading]) -> float | None:
    amps = [r.value for r in usable if r.quantity == "amperes" and r.value is not None]
    return abs(amps[-1]) if amps else None


def _loadedness(
    budget: RunBudget,
    raw: dict[str, Measured],
    sides: dict[Side, Measured],
    clamp: float | None,
    findings: list[Finding],
) -> bool:
    """False when the readings show that no current flowed, so that they prove nothing."""
    expected = {p.step.piece.id: p.drop_v for p in pieces_of(budget)}
    drops = [(m, expected[key]) for key, m in raw.items()]
    drops += [(sides[s.side], s.drop_v) for s in budget.sides if s.side in sides]
    if not drops or current_proven(drops, clamp, budget.current_a):
        return True
    visible = any(expected_v > 3 * m.accuracy for m, expected_v in drops)
    if clamp is not None or visible:
        findings.append(
            Finding(
                "not_loaded",
                "No current flowed: a drop exists only while it does.",
                f"Switch {budget.run.load.name} on and read again; this proves nothing.",
            )
        )
        return False
    findings.append(
        Finding(
            "not_proven",
            "Nothing read yet shows that current flowed.",
            "Read the current with a clamp, or a span that must drop more.",
        )
    )
    return True


def _factor(budget: RunBudget, clamp: float | None, findings: list[Finding]) -> float:
    """What brings drops at the measured current to the loaded current of the budget."""
    if not clamp or not budget.current_a:
        return 1.0
    factor = budget.current_a / clamp
    if not 1 / SCALE_WITHIN < factor < SCALE_WITHIN:
        return 1.0
    if abs(factor - 1) > 0.05:
        findings.append(
            Finding(
                "scaled",
                f"Read at {clamp:.3g} A, budgeted at {budget.current_a:.3g} A: "
                f"drops are scaled by {factor:.2f}.",
                "For like with like, read again at the loaded current.",
            )
        )
    return factor


def _scale(piece: PieceBudget, budget: RunBudget, factor: float) -> float:
    """Only what carries this load's current alone scales with it."""
    own = abs(abs(piece.current_a) - budget.current_a) <= 0.01 * budget.current_a
    return factor if own else 1.0


def inferred_a(budget: RunBudget, pieces: dict[str, Judged]) -> tuple[float, float, str] | None:
    """The current (A) by the drop of a known piece, its doubt, and the piece's id.

    Of the run's own conductors that were read, the one known best; its ohms by the tables, good to
    TABLE_SHARE. None where none was read: then only a meter knows the current.
    """
    best: tuple[float, float, str] | None = None
    for piece in pieces_of(budget):
        judged = pieces.get(piece.step.piece.id)
        own = _scale(piece, budget, 2.0) == 2.0 and not piece.step.beside
        if judged is None or not own or not isinstance(piece.step.piece, Conductor):
            continue
        if not piece.current_a or not piece.drop_v or judged.verdict == "over":
            continue
        ohm = piece.drop_v / piece.current_a
        amps = judged.raw.volts / ohm
        doubt = abs(judged.raw.accuracy / ohm) + TABLE_SHARE * abs(amps)
        if best is None or doubt / max(abs(amps), 1e-9) < best[1] / max(abs(best[0]), 1e-9):
            best = amps, doubt, piece.step.piece.id
    return best


# Verdicts


def _judge(raw: Measured, allowance: float, factor: float, loaded: bool) -> Judged:
    at_load = replace(raw, volts=raw.volts * factor, accuracy=raw.accuracy * factor)
    said = verdict(at_load.volts, at_load.accuracy, allowance) if loaded else "not_loaded"
    return Judged(raw, at_load, said, allowance - at_load.volts)


def _judge_side(
    raw: Measured, side: SideBudget, budget: RunBudget, factor: float, loaded: bool
) -> Judged:
    own = sum(p.drop_v for p in side.pieces if not p.step.beside and _scale(p, budget, 2.0) == 2.0)
    whole = sum(p.drop_v for p in side.pieces if not p.step.beside)
    scale = 1 + (factor - 1) * (own / whole if whole else 0.0)
    counted = replace(raw, volts=raw.volts - side.purpose_v)
    if side.ceiling_v is None:
        at_load = replace(counted, volts=counted.volts * scale, accuracy=raw.accuracy * scale)
        return Judged(raw, at_load, "within" if loaded else "not_loaded", None)
    judged = _judge(counted, side.ceiling_v, scale, loaded)
    return replace(judged, raw=raw)


def _run_verdict(
    budget: RunBudget, sides: dict[Side, Judged], pieces: dict[str, Judged], loaded: bool
) -> Verdict:
    if not loaded:
        return "not_loaded"
    of_sides: list[Verdict] = [
        sides[s.side].verdict if s.side in sides else "not_measured" for s in budget.sides
    ]
    ceiling = budget.ceilings.round_trip_v
    if ceiling is not None and len(sides) == len(budget.sides):
        both = [j.loaded for j in sides.values()]
        of_sides.append(verdict(sum(m.volts for m in both), sum(m.accuracy for m in both), ceiling))
    if any(j.verdict == "over" for j in pieces.values()):
        of_sides.append("over")
    return worst(of_sides)


def _guilty(budget: RunBudget, pieces: dict[str, Judged]) -> str | None:
    """The piece that is over by most, if any is."""
    over = [(j.spare_v or 0.0, key) for key, j in pieces.items() if j.verdict == "over"]
    return min(over)[1] if over else None


# What the readings say of one another


def _close(
    source: Measured | None,
    load: Measured | None,
    sides: dict[Side, Measured],
    findings: list[Finding],
) -> tuple[Measured | None, bool | None]:
    """Source less everything spent. Known by difference alone, it is zero and proves nothing."""
    if source is None or load is None or len(sides) < 2:
        return None, None
    parts = [source, load, *sides.values()]
    spent = load.volts + sum(m.volts for m in sides.values())
    doubt = sum(m.accuracy for m in parts)
    left = Measured(
        source.volts - spent,
        doubt,
        tuple(i for m in parts for i in m.rests_on),
        source.direct and load.direct,
    )
    if sum(not m.direct for m in parts) and abs(left.volts) < 1e-9:
        return left, None
    closes = abs(left.volts) <= doubt
    if not closes:
        findings.append(
            Finding(
                "unaccounted",
                f"{left.volts:.2f} V of the source are unaccounted for.",
                "Re-read the source with the load on, then the span nobody has measured.",
                left.rests_on,
            )
        )
    return left, closes


def _sums(budget: RunBudget, evidence: Evidence, findings: list[Finding]) -> None:
    """A side read whole against its pieces read one by one."""
    for side in budget.sides:
        whole = evidence.drop(*budget.run.ends(side.side))
        parts = [evidence.drop(*ends_of(p)) for p in side.pieces if not p.step.beside]
        known = [m for m in parts if m is not None and m.direct]
        if whole is None or not whole.direct or len(known) < len(parts) or len(parts) < 2:
            continue
        miss = whole.volts - sum(m.volts for m in known)
        if abs(miss) > whole.accuracy + sum(m.accuracy for m in known):
            findings.append(
                Finding(
                    "no_sum",
                    f"The whole {side.side} read {whole.volts:.3f} V, its pieces add up to "
                    f"{whole.volts - miss:.3f} V.",
                    "Read the whole side again, then the piece that looks least like its neighbours.",
                    whole.rests_on,
                )
            )


def _coarse(budget: RunBudget, pieces: dict[str, Judged], findings: list[Finding]) -> None:
    for piece in pieces_of(budget):
        judged = pieces.get(piece.step.piece.id)
        if judged is None or judged.verdict != "too_close" or not judged.raw.direct:
            continue
        if piece.allowance.volts < 3 * judged.raw.accuracy:
            findings.append(
                Finding(
                    "coarse",
                    f"{called(piece.step.piece)} may drop {piece.allowance.volts:.3f} V; this reading "
                    f"is only good to {judged.raw.accuracy:.3f} V.",
                    "Take a lower range, both leads across the piece, or more current.",
                    judged.raw.rests_on,
                    piece.step.piece.id,
                )
            )


def _hot(budget: RunBudget, pieces: dict[str, Judged], findings: list[Finding]) -> None:
    """Volts times amperes in one place is heat, there and then."""
    for piece in pieces_of(budget):
        judged = pieces.get(piece.step.piece.id)
        if judged is None or judged.verdict != "over" or piece.allowance.rule == "copper":
            continue
        watts = judged.loaded.volts * abs(piece.current_a)
        if watts < WARM_W:
            continue
        burn = watts >= BURN_W
        findings.append(
            Finding(
                "hot",
                f"{called(piece.step.piece)} turns {watts:.1f} W into heat.",
                "Do not touch; switch off: a fire hazard until remade."
                if burn
                else "Look for browning; feel for heat only after switching off.",
                judged.raw.rests_on,
                piece.step.piece.id,
            )
        )


def measured_headroom(budget: RunBudget, sides: dict[Side, Judged]) -> Headroom:
    """Amperes and metres until the first side ceiling, by what was measured.

    A side that no shortening of the load's own pair could bring within its ceiling has no metres.
    What a side lost more than predicted is taken as resistance: R = sum of R + (V - V_pred) / I.
    """
    best = Headroom(None, "", None, "")
    if not budget.current_a:
        return best
    pair = own_pair(budget.run)
    hopeless = False
    own, shortest = {w.id for w in pair}, min((w.length_m for w in pair), default=0.0)
    for side in budget.sides:
        judged = sides.get(side.side)
        if judged is None or judged.spare_v is None:
            continue
        steps = [p for p in side.pieces if not p.step.beside and p.current_a]
        ohm = sum(p.drop_v / p.current_a for p in steps)
        ohm += (judged.loaded.volts - side.drop_v) / budget.current_a
        per_m = sum(
            p.drop_v / p.step.piece.length_m
            for p in steps
            if isinstance(p.step.piece, Conductor) and p.step.piece.id in own
        )
        name = f"{side.side} ceiling"
        amperes = judged.spare_v / ohm if ohm > 0 else None
        metres = judged.spare_v / per_m if per_m > 0 else None
        hopeless = hopeless or (metres is not None and metres < -shortest)
        best = Headroom(
            *_lesser((best.amperes, best.amperes_until), (amperes, name)),
            *_lesser((best.metres, best.metres_until), (metres, name)),
        )
    return replace(best, metres=None, metres_until="") if hopeless else best


def _lesser(
    one: tuple[float | None, str], other: tuple[float | None, str]
) -> tuple[float | None, str]:
    if one[0] is None or (other[0] is not None and other[0] < one[0]):
        return other
    return one
