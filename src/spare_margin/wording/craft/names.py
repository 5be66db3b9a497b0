"""Names that cannot be taken for another: a piece with its side and neighbour where its name recurs."""

from collections.abc import Mapping

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.model.pieces import SIDES, Craft
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word


def full_names(craft: Craft, run: Run) -> Mapping[str, str]:
    """The name of every piece of a run by its id; those that share one say where they stand.

    `Pin, feed side`; where that is still not enough, what stands beside it: `Pin at Fuse 15 A, feed side`.
    """
    steps = [(side, s) for side in SIDES for s in run.side(side)]
    plain = {s.piece.id: _plain_name(craft, s) for _, s in steps}
    counts: dict[str, int] = {}
    for name in plain.values():
        counts[name] = counts.get(name, 0) + 1
    sided = {s.piece.id: f"{plain[s.piece.id]}, {side_word(side)} side" for side, s in steps}
    again: dict[str, int] = {}
    for name in sided.values():
        again[name] = again.get(name, 0) + 1
    out = {}
    for side, step in steps:
        key = step.piece.id
        if counts[plain[key]] == 1:
            out[key] = plain[key]
        elif again[sided[key]] == 1:
            out[key] = sided[key]
        else:
            at = _beside(craft, run, step)
            out[key] = f"{plain[key]} {at}, {side_word(side)} side"
    return _numbered(out)


def point_names(craft: Craft, run: Run) -> Mapping[str, str]:
    """The name of every test point on a run's main way; those that share one say on which side, and which.

    `Pin / Wire 2.5 mm², feed side (2)`: a lead must not be put on another by its name.
    """
    sides: dict[str, str] = {}
    for side in SIDES:
        sides |= {p: side_word(side) for p in run.line[side] if p not in sides}
    plain = {p: point_name(craft, p) for p in sides}
    counts: dict[str, int] = {}
    for name in plain.values():
        counts[name] = counts.get(name, 0) + 1
    told = {
        p: name if counts[name] == 1 else f"{name}, {sides[p]} side" for p, name in plain.items()
    }
    return _numbered(told)


def _plain_name(craft: Craft, step: Step) -> str:
    """What a piece is called; a section that nobody has drawn by its ends."""
    if step.piece.kind == "unknown" and not step.piece.name:
        return f"{point_name(craft, step.entry)} to {point_name(craft, step.exit)}"
    return piece_name(step.piece)


def _beside(craft: Craft, run: Run, step: Step) -> str:
    """Where a piece stands: at a named point, at the load, else after the piece before it."""
    for point in (step.exit, step.entry):
        if craft.point(point).name:
            return f"at {craft.point(point).name}"
    if run.feed_terminal == step.exit or run.return_terminal == step.entry:
        return f"at {run.load.name}"
    main = [s for side in SIDES for s in run.side(side)]
    before = next((s for s in main if s.exit == step.entry), None)
    return f"after {piece_name(before.piece)}" if before else "at the post"


def _numbered(names: dict[str, str]) -> dict[str, str]:
    """Names that are still the same are counted in the current's order."""
    counts: dict[str, int] = {}
    for name in names.values():
        counts[name] = counts.get(name, 0) + 1
    seen: dict[str, int] = {}
    out = {}
    for key, name in names.items():
        if counts[name] == 1:
            out[key] = name
            continue
        seen[name] = seen.get(name, 0) + 1
        out[key] = f"{name} ({seen[name]})"
    return out


def full_name(craft: Craft, run: Run, element: str) -> str:
    """The name of a piece, load or source of a run that cannot be taken for another's."""
    if element == run.load.id:
        return run.load.name
    if element == run.source.id:
        return run.source.name
    names = full_names(craft, run)
    if element in names:
        return names[element]
    piece = next((p for p in craft.pieces if p.id == element), None)
    return element if piece is None else piece_name(piece)


def fitted_to_drop(run: Run) -> dict[str, str]:
    """What is fitted to take volts, by the side it lies on."""
    held = {side: [s.piece for s in run.way(side) if s.on_purpose] for side in SIDES}
    return {side: ", ".join(map(piece_name, pieces)) for side, pieces in held.items() if pieces}


def span_name(craft: Craft, run: Run, red: str, black: str) -> str:
    """What a span is called: its one piece, else its two ends."""
    between = run.between(red, black)
    if between is not None and len(between.pieces) == 1:
        return full_names(craft, run)[between.pieces[0]]
    names = point_names(craft, run)
    ends = [names.get(p) or point_name(craft, p) for p in (red, black)]
    return " to ".join(ends)
