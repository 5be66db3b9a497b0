"""Writes the demo's practice: two made-up learners, a week each, one of whom has habits that cost."""

import json
import random
from pathlib import Path

from spare_margin.core.practice.acts import Act, Claim
from spare_margin.core.practice.debrief import debrief, kind_of
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.expert import way
from spare_margin.core.practice.left import Judge
from spare_margin.core.practice.played import Played
from spare_margin.core.practice.playing import act, played
from spare_margin.core.practice.result import result_of
from spare_margin.exchange.practice import acts_text, result_text
from tests.practice import Learner, made

TARGET = Path(__file__).parents[1] / "src/spare_margin/data/demo-practice.json"
CAREFUL, HASTY = "Ines Falk", "Tom Berrow"
WEEK = {
    CAREFUL: ["1-1", "1-2", "2-1", "2-3", "3-1", "4-1", "5-2"],
    HASTY: ["1-1", "1-3", "1-6", "2-1", "2-2", "3-2", "1-7"],
}


def careful(held: Exercise, judge: Judge, seed: int) -> Played:
    """In one's own order, and proven."""
    return Learner(held, judge, random.Random(seed)).play()


def hasty(held: Exercise, judge: Judge, seed: int) -> Played:
    """Across pieces, without the clamp; then something is replaced, now and then the right thing."""
    rng = random.Random(seed)
    steps = rng.sample(list(held.loop.steps()), 4)
    acts = [Act(kind="noted")] if seed % 2 else []
    acts += [Act(kind="volts", red=s.entry, black=s.exit) for s in steps]
    first = held.hidden[0] if seed % 3 else None
    sound = next(s.piece.id for s in held.loop.feed if s.piece.kind == "fuse")
    element = sound if first is None else first.element
    kind = "open" if first is not None and kind_of(held, first) == "open" else "resistance"
    at = act(played(held, acts), Act(kind="conclude", claims=(Claim(element=element, kind=kind),)))
    if seed > 3:
        # He learns: the last days he looks again after a repair.
        return way(held, judge) if seed == 6 else act(at, Act(kind="hand_over"))
    return act(at, Act(kind="hand_over"))


def main() -> None:
    """Write what each did, with what it came to."""
    told = []
    for who, keys in WEEK.items():
        for day, key in enumerate(keys):
            held, judge = made(key)
            at = (careful if who == CAREFUL else hasty)(held, judge, day)
            result = result_of(debrief(at, judge))
            told.append(
                {
                    "who": who, "exercise": key, "days_ago": len(keys) - day,
                    "acts": json.loads(acts_text(at.acts)),
                    "result": json.loads(result_text(result)),
                }
            )  # fmt: skip
            print(who, key, result.outcome, round(result.minutes), round(result.shortest_min))
    TARGET.write_text(json.dumps(told, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
