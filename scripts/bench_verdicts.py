"""How long verdicts and next readings take: a long run, a great many readings, ten runs off one panel."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from crafts import TABLES, generated, off_a_panel, written
from timing import median

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.evidence.response.circuits import AS_DRAWN, solved_as
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, FixedPiece
from spare_margin.service.job.judging import Judging

LIMITS = Limits(TABLES.limit_sets["by-duty"], {})
PAIRS = 14
"""Of a pin and a wire, a side of the long run."""


def volts(red: str, black: str, value: float, number: int, scenario: str) -> Reading:
    """A reading as a workshop's meter takes it."""
    return Reading(
        id=f"r{number}", revision="r", quantity="volts", red=red, black=black, value=value,
        state="value", typed="", accuracy=0.002 + 0.005 * abs(value), scenario=scenario, taken_at="",
    )  # fmt: skip


def clamped(run: Run, value: float, number: int, scenario: str) -> Reading:
    """The load's current by a clamp that is good to 2 %."""
    made = volts(run.feed_terminal, run.return_terminal, value, number, scenario)
    return replace(made, quantity="amperes", accuracy=0.02 * value)


def asked(craft: Craft, readings: Sequence[Reading]) -> Callable[[], Judging]:
    """Judging of a craft with readings, runs and budgets of the wiring laid out once."""
    first = Judging(craft, (), (), (), LIMITS, TABLES)
    first.traced, first.budget(next(iter(first.runs)), craft.scenarios[0])

    def again() -> Judging:
        judging = Judging(craft, readings, (), (), LIMITS, TABLES)
        judging.share(first)
        return judging

    return again


def spans(run: Run) -> list[tuple[str, str]]:
    """Both sides and each piece of the main way."""
    each = [(s.entry, s.exit) for s in run.steps() if not s.beside]
    return [run.ends("feed"), run.ends("return"), *each]


def read(
    craft: Craft, run: Run, pairs: Sequence[tuple[str, str]], more_ohm: Mapping[str, float]
) -> list[Reading]:
    """What meters show over some pairs with so much more in some pieces, and of the load's current."""
    scenario = craft.scenarios[0]
    found = solved_as(craft, scenario, TABLES, replace(AS_DRAWN, more_ohm=more_ohm)).solution
    amps = abs(found.elements.current_a(run.load.id))
    return [
        clamped(run, amps, 0, scenario.id),
        *(volts(a, b, drop(found, a, b), i, scenario.id) for i, (a, b) in enumerate(pairs, 1)),
    ]


def drop(found: Solution, red: str, black: str) -> float:
    """Volts between two points of a solved craft."""
    high, low = found.nodes[red], found.nodes[black]
    assert high is not None, red
    assert low is not None, black
    return high - low


def long_run(pieces: int, pairs: int) -> tuple[Craft, str]:
    """A craft of about so many pieces with one more run: so many pins and wires each side."""
    text = " > ".join(["pin", "1.5 mm2 0.4 m"] * pairs)
    return written(generated(pieces), f'fuse 10 > {text} > load "Far" 2 A > {text} > ring')


def timed(name: str, craft: Craft, load: str, readings: Sequence[Reading], times: int = 5) -> None:
    """Print how long the verdict of a run takes, and the next reading, by bounds and by odds."""
    again = asked(craft, readings)
    run = again().runs[load]
    bare = median(lambda: solve(craft, craft.scenarios[0], TABLES), times)
    verdict = median(lambda: again().judge(load), times)
    next_one = median(lambda: again().judge(load).conclusion.to_read, times)
    headline = again().judge(load).conclusion.headline
    steps = sum(1 for _ in run.steps())
    print(
        f"  {name}: {steps} pieces of {len(craft.pieces)}, {len(readings)} readings, {headline}:"
        f" verdict {verdict * 1000:.1f} ms ({verdict / bare:.1f} x a solve),"
        f" with the next reading {next_one * 1000:.1f} ms"
    )


def verdicts() -> None:
    """Print all of them."""
    print("Verdicts by bounds")
    craft, load = long_run(340, PAIRS)
    run = asked(craft, ())().runs[load]
    timed("a long run, its sides", craft, load, read(craft, run, spans(run)[:2], {}))
    fixed = [s.piece.id for s in run.steps() if isinstance(s.piece, FixedPiece)]
    bad = {fixed[9]: 0.3, fixed[-4]: 0.2}
    timed("the same, two bad, each piece read", craft, load, read(craft, run, spans(run), bad))
    craft, load = long_run(450, 125)
    run = asked(craft, ())().runs[load]
    twice = [*spans(run), *spans(run)]
    timed("a great run, each piece read twice", craft, load, read(craft, run, twice, {}), 3)
    craft = off_a_panel(10)
    runs = asked(craft, ())().runs
    # Four readings each that are off the drawing: both sides, and a piece in each.
    each: list[Reading] = []
    for key, run in runs.items():
        own = [s for s in run.steps() if isinstance(s.piece, FixedPiece)]
        pairs = [*spans(run)[:2], *((s.entry, s.exit) for s in own[-2:])]
        more = read(craft, run, pairs, {own[-1].piece.id: 0.1, own[-2].piece.id: 0.2})
        each += [replace(r, id=f"{key}{r.id}") for r in more]
    timed("one of ten runs off a panel", craft, next(iter(runs)), each)
    again = asked(craft, each)

    def all_of_them() -> None:
        judging = again()
        for key in runs:
            judging.judge(key)

    print(f"  all ten of them: {median(all_of_them, 3) * 1000:.0f} ms")


if __name__ == "__main__":
    verdicts()
