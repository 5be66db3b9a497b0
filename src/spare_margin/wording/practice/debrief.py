"""The debrief in sentences: what each act told, what would have told more, what a conclusion rested on."""

from collections.abc import Mapping, Sequence

from spare_margin.core.practice.debrief import (
    Better,
    Debrief,
    Habit,
    Outcome,
    Rest,
    Rested,
    Step,
    kind_of,
)
from spare_margin.core.practice.exercise import Hidden
from spare_margin.core.practice.left import Left
from spare_margin.wording.craft.pieces import worded
from spare_margin.wording.language.figures import about_volts, price

from .told import DANGER_WORDS, ActWords

OUTCOME_WORDS: Mapping[Outcome, str] = {
    "mended": "Repaired, and proven.",
    "not_proven": "Repaired, but not proven: nothing measured afterwards shows it.",
    "not_mended": "Something is still wrong.",
    "well": "Nothing was wrong, and you proved it.",
    "well_unproven": "Nothing was wrong, but nothing you measured proves it.",
    "missed": "You said all is well. It was not.",
    "needless": "Nothing was wrong. What you repaired was sound.",
}
RESTED_WORDS: Mapping[Rested, str] = {
    "carried": "Your readings leave no other explanation.",
    "lucky": "Right, but a lucky guess. Your readings leave other explanations open.",
    "guessed": "It was sound. You went beyond what you had measured.",
}
HABIT_WORDS: Mapping[Habit, tuple[str, str]] = {
    "no_current": (
        "Concluded without proving current",
        "Clamp the load first. Without current every bad joint measures perfect.",
    ),
    "pieces_first": (
        "Measured single pieces before whole sides",
        "Measure the whole feed and the whole {return} first. One reading speaks for all their pieces.",
    ),
    "ohms_believed": (
        "Believed an ohmmeter",
        "Its milliampere does not load a last strand. Measure volts while the current flows.",
    ),
    "not_read_across": (
        "Replaced what was never measured across",
        "Put red and black on both ends of it with the load on, before you repair it.",
    ),
    "not_proven": (
        "Handed over without proof",
        "Measure the current and both sides again after the repair.",
    ),
    "clamp_not_zeroed": (
        "Clamp not zeroed",
        "Zero it at the place, jaws empty. It can be off by more than an ampere.",
    ),
    "danger": ("Took a risk", "See the cautions of that exercise."),
}
_WHY: Mapping[str, str] = {
    "current": "Without proven current no reading across a piece means anything.",
    "side": "One reading across a whole side clears or accuses all its pieces at once.",
    "span": "It splits what is left in two.",
    "source": "Only the posts under load show whether the source is weak.",
    "moved": "What comes and goes shows itself only while it is moved.",
    "coil": "A contact that stands open may only lack what feeds its coil.",
}


class DebriefWords:
    """One debrief in sentences."""

    def __init__(self, told: Debrief) -> None:
        self.told, self.acts = told, ActWords(told.exercise)

    def step(self, step: Step) -> str:
        """What a reading told: how many pieces could be it before, and can still."""
        before, after = step.before, step.after
        new = [p for p in after.found if p not in before.found]
        if new:
            return f"This settles it: {self._listed(new)}."
        if after.headline == "within" and before.headline != "within":
            return f"Both sides are within their limits. {self._still(after)}".rstrip()
        if len(after.pieces) < len(before.pieces):
            says = f"{self._count(before)} could be at fault before, {len(after.pieces)} still can."
            return f"{says} {self._volts(before, after)}".rstrip()
        if after.volts < before.volts - 0.05:
            return self._volts(before, after)
        if len(after.pieces) > len(before.pieces):
            return f"It opens the question again: {self._count(after)} can be at fault."
        return "It told nothing new."

    def _still(self, left: Left) -> str:
        if not left.pieces:
            return ""
        return f"{self._count(left)} can still be at fault."

    @staticmethod
    def _count(left: Left) -> str:
        return f"{len(left.pieces)} {'part' if len(left.pieces) == 1 else 'parts'}"

    @staticmethod
    def _volts(before: Left, after: Left) -> str:
        if after.volts >= before.volts - 0.05:
            return ""
        return (
            f"About {about_volts(after.volts)} of the source's volts are still not accounted for."
        )

    def better(self, step: Step) -> str:
        """What would have told more for less, and why; empty where nothing would."""
        if step.better is None:
            return ""
        better = step.better
        act = self.acts.said(better.act)
        new = [p for p in better.left.found if p not in step.before.found]
        if new:
            left = f"would have settled it: {self._listed(new)}"
        elif len(better.left.pieces) < len(step.after.pieces):
            left = f"would have left {self._count(better.left)}"
        else:
            left = f"would have left about {about_volts(better.left.volts)} not accounted for"
        why = _WHY[self._kind(better)]
        return f"{act}: {left} for {better.minutes:g} min. {why}"

    def _kind(self, better: Better) -> str:
        act, exercise = better.act, self.told.exercise
        if act.kind == "amperes":
            return "current"
        if act.moved:
            return "moved"
        run, pair = exercise.loop, {act.red, act.black}
        if pair == {run.source.live, run.source.back}:
            return "source"
        coils = [exercise.craft.load(c) for c in exercise.relays.values()]
        if any(pair == {c.start, c.end} for c in coils):
            return "coil"
        return "side" if any(pair == set(run.ends(s)) for s in ("feed", "return")) else "span"

    def rest(self, rest: Rest) -> str:
        """What a claim rested on."""
        says = f"{self.acts.claim(rest.claim)}. {RESTED_WORDS[rest.rested]}"
        if rest.true and not rest.kind_right:
            hidden = next(h for h in self.told.exercise.hidden if h.element == rest.claim.element)
            says += f" But it {_truth(kind_of(self.told.exercise, hidden))}."
        return says

    def well(self) -> str:
        """What was rested on, where all was said to be well; empty where nobody said so."""
        match self.told.well:
            case "carried":
                return "All is well. Your readings leave no other explanation."
            case "lucky":
                return "All is well. True, but your readings do not show it."
            case "guessed":
                return "You said all is well. Your readings do not show it, and it was not."
        return ""

    def truth(self) -> str:
        """What was truly wrong."""
        hidden = self.told.exercise.hidden
        if not hidden:
            return "Nothing was wrong."
        return "It was: " + "; ".join(self._hidden(h) for h in hidden) + "."

    def _hidden(self, hidden: Hidden) -> str:
        return f"{self.acts.pieces[hidden.element]} {_truth(kind_of(self.told.exercise, hidden))}"

    def dangers(self) -> list[str]:
        """What could have hurt."""
        return [DANGER_WORDS[d] for d in self.told.dangers]

    def needless(self) -> str:
        """What went into sound parts; empty where nothing did."""
        minutes, paid = self.told.needless
        if not minutes:
            return ""
        parts = f" and {price(paid)} for parts" if paid else ""
        return f"{minutes:.0f} min{parts} went into what was sound."

    def _listed(self, pieces: Sequence[str]) -> str:
        return ", ".join(self.acts.pieces[p] for p in pieces)


def habit_words(habit: Habit) -> tuple[str, str]:
    """A habit, and what to do instead."""
    name, instead = HABIT_WORDS[habit]
    return name, worded(instead)


_TRUTH: Mapping[str, str] = {
    "resistance": "dropped too many volts", "open": "was open",
    "loose": "was bad only while moved or warm", "weak": "was weak",
    "load": "drew less than half of what it should",
}  # fmt: skip


def _truth(kind: str) -> str:
    return _TRUTH[kind]


def kind_words(kind: str) -> str:
    """A kind of fault as progress lists it."""
    return {
        "resistance": "Too much resistance", "open": "Open", "loose": "Comes and goes",
        "weak": "Weak source", "load": "The load itself",
    }[kind]  # fmt: skip
