"""What a change did to a wiring, in words."""

from collections.abc import Mapping, Sequence

from spare_margin.core.model.jobs import Action, Revision
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load
from spare_margin.wording.craft.pieces import load_spec, piece_name, side_word, spec
from spare_margin.wording.language.figures import count, volts


def differences(old: Craft, new: Craft) -> list[str]:
    """What stands otherwise in `new`, a line for each element."""
    before = {e.id: e for e in (*old.pieces, *old.loads)}
    out = []
    for piece in new.pieces:
        was = before.pop(piece.id, None)
        if was is None:
            out.append(f"{piece_name(piece)}: new")
        elif was != piece:
            out.append(f"{piece_name(piece)}: {how_changed(was, piece)}")
    for load in new.loads:
        was = before.pop(load.id, None)
        if was != load:
            out.append(f"{load.name}: {load_spec(load)}")
    return out + [
        f"{piece_name(gone) if not isinstance(gone, Load) else gone.name}: taken out"
        for gone in before.values()
    ]


def how_changed(was: object, piece: Conductor | FixedPiece) -> str:
    """What a change did to a piece, in a few words."""
    if isinstance(was, Conductor | FixedPiece) and spec(was) != spec(piece):
        return f"{spec(was)} \u2192 {spec(piece)}" + (f", {piece.repair}" if piece.repair else "")
    return piece.repair or "changed"


ADDED, DRAWN = "Run added.", "Drawn."
COPIED = "Run duplicated."
CHARGING = "Charging path added as its own run."
PUT_IN, MOVED, DELETED = "Component added.", "Moved.", "Deleted."
ACTIONS: Mapping[Action, str] = {
    "changed": "a change",
    "corrected": "drawing corrected",
    "drawn": "drawn up",
    "imported": "brought in",
    "copied": "copied",
    "finished": "repair done",
    "scenario": "a scenario",
    "source": "a source",
}


def revision_words(revision: Revision, before: Craft | None) -> str:
    """What a revision did, told from the two wirings in the units of whoever reads it."""
    if revision.summary:
        return revision.summary
    told = differences(before, revision.craft) if before is not None else []
    if before is not None and not told:
        told = _beside_pieces(before, revision.craft)
    word = ACTIONS[revision.action]
    if not told:
        return word
    lead = f"{word}: " if revision.action in ("corrected", "finished") else ""
    return lead + "; ".join(told)


def _beside_pieces(old: Craft, new: Craft) -> list[str]:
    """What stands otherwise beside pieces and loads: sources, scenarios, the craft itself."""
    before = {s.id: s for s in old.scenarios}
    out = [f"{s.name}: changed" for s in new.sources if s not in old.sources]
    out += [f"{s.name}: {'changed' if s.id in before else 'new'}" for s in new.scenarios
            if before.get(s.id) != s]  # fmt: skip
    kept = {s.id for s in new.scenarios}
    out += [f"{s.name}: taken out" for s in old.scenarios if s.id not in kept]
    if (old.kind, old.nominal_v, old.polarity) != (new.kind, new.nominal_v, new.polarity):
        out.append("what the craft is")
    return out


def taken_out_words(run: str) -> str:
    """A run that is taken out."""
    return f"{run} deleted."


def scenario_words(name: str, taken_out: bool) -> str:
    """A scenario that is kept or taken out."""
    return f"Scenario {name} taken out" if taken_out else f"Scenario {name}"


def rows_words(new: int, changed: int) -> str:
    """Rows of the table of runs that were kept."""
    parts = [(new, "added"), (changed, "changed")]
    told = [f"{count(n)} {'run' if n == 1 else 'runs'} {what}" for n, what in parts if n]
    return f"{', '.join(told)}." if told else "Nothing changed."


def own_limit_words(own: Ceilings | None) -> str:
    """What a run may lose where it is held to a limit of its own; empty where the set rules.

    Args:
        own: its own ceilings.
    """
    if own is None:
        return ""
    if own.round_trip_v is not None:
        return volts(own.round_trip_v)
    sides = [
        f"{side_word(side)} {volts(v)}"
        for side, v in (("feed", own.feed_v), ("return", own.return_v))
        if v is not None
    ]
    return ", ".join(sides)


def held_words(now: Sequence[Ceilings | None]) -> str:
    """Runs held to a limit of their own, or to that of the set again.

    Args:
        now: what each run's own limit is now.
    """
    many = len(now)
    who = "One run" if many == 1 else f"{many} runs"
    said = {own_limit_words(own) for own in now}
    if said == {""}:
        return f"{who} held to the limit set."
    if len(said) == 1:
        return f"{who} held to {said.pop()} in all."
    return f"{who} held to their own limits."
