"""A judgement as the open format spare-margin-judgement, version 1."""

from typing import Any

from spare_margin.core.evidence.estimate.search import Suspect
from spare_margin.core.evidence.verdict.diagnosis import Diagnosis
from spare_margin.core.evidence.verdict.judgement import JudgedSide, JudgedSpan, Judgement
from spare_margin.core.evidence.verdict.planned import Planned
from spare_margin.core.model.jobs import Stage

LEAST_PROBABILITY = 1e-6
"""Suspects less likely than this are not told."""


def judgement_document(found: Judgement, stage: Stage) -> dict[str, Any]:
    """What readings say of one run, as a JSON document; numbers in SI."""
    made = found.conclusion
    return {
        "format": "spare-margin-judgement",
        "version": 1,
        "run": found.run.load.id,
        "stage": stage,
        "verdict": found.verdict,
        "loaded": found.loaded,
        "sides": {str(side): _side(judged) for side, judged in found.sides.items()},
        "spans": [_span(span) for span in found.spans],
        "load_v": dict(found.measured.load_v),
        "suspects": [
            suspect_document(s)
            for s in found.suspects
            if s.probability >= LEAST_PROBABILITY and s.element is not None
        ],
        "found": list(found.found),
        "cleared": sorted(made.cleared),
        "between": None if made.between is None else list(made.between),
        "more": None if made.more is None else list(made.more),
        "contradicting": list(made.contradicting),
        "missing": made.missing,
        "next": next(
            ({"kind": n.kind, "red": n.red, "black": n.black} for n in made.to_read), None
        ),
        "done": found.done,
        "findings": sorted({f.code for f in found.findings}),
    }


def planned_document(found: Judgement, plan: Planned) -> dict[str, Any]:
    """What a plan would do for one run, as the same format: nothing of it is read yet."""
    spend, held = plan.spend, plan.ceilings
    lost = {"feed": (spend.feed_v, held.feed_v), "return": (spend.return_v, held.return_v)}
    verdict: str = plan.verdict
    if verdict == "not_measured" or (verdict == "within" and found.verdict == "not_judged"):
        verdict = "not_judged"
    return {
        **judgement_document(found, "planned"),
        "run": plan.measured.run.load.id,
        "verdict": verdict,
        "sides": {
            side: {
                "volts": None,
                "doubt_v": None,
                "loaded_v": None if side in plan.unread else volts,
                "ceiling_v": ceiling,
                "verdict": "not_judged"
                if side in plan.unread
                else "over"
                if ceiling is not None and volts > ceiling
                else verdict
                if verdict != "over"
                else "within",
            }
            for side, (volts, ceiling) in lost.items()
        },
        "spans": [],
        "load_v": {} if plan.unread else dict(plan.measured.load_v),
        "suspects": [
            each
            for each in judgement_document(found, "planned")["suspects"]
            if each["element"] in plan.left_in
        ],
        "found": [],
        "cleared": [],
        "between": None,
        "contradicting": [],
        "missing": None,
        "next": None,
        "done": "",
        "findings": [],
    }


def suspect_document(s: Suspect) -> dict[str, Any]:
    """One suspect; a load that draws otherwise than it should counts as excess resistance."""
    return {
        "element": s.element,
        "fault": "excess_resistance" if s.kind == "load" else s.kind,
        "probability": s.probability,
        "excess_ohm": s.ohm,
    }


def _side(side: JudgedSide) -> dict[str, Any] | None:
    if not side.read and side.verdict == "not_judged":
        return None
    return {
        "volts": side.volts,
        "doubt_v": side.doubt_v,
        "low_v": side.low_v,
        "high_v": side.high_v,
        "loaded_v": side.loaded_v,
        "loaded_low_v": side.loaded_low_v,
        "loaded_high_v": side.loaded_high_v,
        "ceiling_v": side.ceiling_v,
        "verdict": side.verdict.removesuffix("_as_ran"),
        "from": list(side.readings),
    }


def _span(judged: JudgedSpan) -> dict[str, Any]:
    return {
        "red": judged.span.red,
        "black": judged.span.black,
        "moment": judged.moment,
        "volts": judged.volts,
        "doubt_v": judged.doubt_v,
        "ohm": judged.ohm,
        "ohm_low": judged.ohm_low,
        "ohm_high": judged.ohm_high,
        "loaded_v": judged.loaded_v,
        "allowed_v": judged.allowed_v,
        "verdict": judged.verdict,
    }


def diagnosis_document(found: Diagnosis) -> dict[str, Any]:
    """The state of a search over a craft as the open format spare-margin-diagnosis, version 1."""
    probe = next(iter(found.probes), None)
    return {
        "format": "spare-margin-diagnosis",
        "version": 1,
        "candidates": [
            suspect_document(s) for s in found.search.suspects if s.probability >= LEAST_PROBABILITY
        ],
        "next_probe": probe and {"red": probe.red, "black": probe.black, "bits": probe.bits},
        "done": found.done,
    }
