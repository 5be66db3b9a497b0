"""What is said of one run, as values: its verdict, its sides and spans, what to read next, findings."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.outlook.probes import Probe
from spare_margin.core.evidence.outlook.trends import Span
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import Scenario, Side

Verdict = Literal["within", "over", "too_close", "high", "not_judged"]
Done = Literal["", "good", "cornered", "load", "no_current", "out_of_reach", "as_drawn"]
PASSED = 0.025
"""A limit counts as kept, or as passed, where the contrary is no more probable than this."""
DOUBT = 2.0
"""Half-widths that are told are this many standard deviations."""


@dataclass(frozen=True, slots=True)
class JudgedSide:
    """One side: V as read in its worst moment, and at the loaded current; None where not read."""

    side: Side
    volts: float | None
    doubt_v: float | None
    loaded_v: float
    loaded_doubt_v: float
    ceiling_v: float | None
    purpose_v: float
    verdict: Verdict
    read: bool


@dataclass(frozen=True, slots=True)
class JudgedSpan:
    """A span that was read, in one moment; `ohm` is V / I with its bounds, None without current."""

    span: Span
    moment: str | None
    volts: float
    doubt_v: float
    ohm: float | None
    ohm_low: float | None
    ohm_high: float | None
    loaded_v: float | None
    loaded_doubt_v: float | None
    allowed_v: float | None
    verdict: Verdict


@dataclass(frozen=True)
class Judgement:
    """Everything the readings say of one run.

    Attributes:
        loaded: whether current is proven; None where nothing says.
        amps: what the load draws in the moment judged, with its doubt (A); None where nothing says.
        worst: the scenario of the budget, the worst by the craft as measured.
        measured: the craft as measured.
        probes: what to read next, the most telling first.
    """

    run: Run
    verdict: Verdict
    loaded: bool | None
    amps: tuple[float, float] | None
    sides: Mapping[Side, JudgedSide]
    spans: tuple[JudgedSpan, ...]
    worst: Scenario
    measured: Measured
    search: Search
    probes: tuple[Probe, ...]
    done: Done
    findings: tuple[Finding, ...]
    conditions: Conditions | None
    spare: tuple[float, str] | None
    """The least spare (V) under any ceiling as measured, and which; None without a ceiling."""

    @property
    def top(self) -> tuple[str | None, float]:
        """The likeliest element at fault (None: nothing is) and how probable that is."""
        return next(iter(self.search.by_element.items()))
