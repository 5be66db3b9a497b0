"""A revision travels as what differs from another: back it is the same wiring, however it was changed."""

import json
import random
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.model.jobs import Job, Revision
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.exchange.job_file import job_file
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob, read_job
from spare_margin.exchange.job_file.writing import write_job
from tests.conftest import craft_of, loop

FIRST = craft_of(loop())


def changed(craft: Craft, seed: int) -> Craft:
    """A wiring with something otherwise: a figure, a part more or less, another order, another name."""
    rng = random.Random(seed)
    pieces, loads = list(craft.pieces), list(craft.loads)
    match seed % 7:
        case 0:
            place = rng.randrange(len(pieces))
            pieces[place] = replace(pieces[place], name=f"Renamed {seed}")
        case 1:
            pieces.append(replace(pieces[0], id=f"more-{seed}"))
        case 2 if len(pieces) > 3:
            pieces.pop(rng.randrange(len(pieces)))
        case 3:
            rng.shuffle(pieces)
        case 4:
            loads.insert(0, replace(loads[0], id=f"load-{seed}", name=f"Load {seed}"))
        case 5:
            first = craft.scenarios[0]
            more = Scenario(id=f"s-{seed}", name="More", on=first.on)
            return replace(craft, scenarios=(more, *craft.scenarios))
        case _:
            points = list(craft.points)
            points[-1] = replace(points[-1], name=f"Point {seed}", access="trim")
            return replace(craft, points=tuple(points))
    return replace(craft, pieces=tuple(pieces), loads=tuple(loads))


def history(seeds: list[tuple[int, int]]) -> ReadJob:
    """A job whose every wiring was made from any of those before it."""
    made = [
        Revision(
            id="r0", stage="as_found", parent=None, made_at="2026-05-01T08:00:00Z", craft=FIRST
        )
    ]
    for n, (seed, parent) in enumerate(seeds, 1):
        before = made[parent % len(made)]
        made.append(
            Revision(
                id=f"r{n}", stage="as_found", parent=before.id, made_at=f"2026-05-01T09:{n:02}:00Z",
                craft=changed(before.craft, 100 * seed + n), folded=seed % 3,
            )
        )  # fmt: skip
    job = Job(id="job", title="Test", made_at="2026-05-01T08:00:00Z")
    return ReadJob(job, tuple(made), ())


@given(st.lists(st.tuples(st.integers(0, 10_000), st.integers(0, 50)), max_size=12))
def test_every_wiring_comes_back(seeds: list[tuple[int, int]]) -> None:
    read = history(seeds)
    document = write_job(read)
    again = read_job(json.dumps(document).encode())
    assert again.revisions == read.revisions
    assert write_job(again) == document


def test_a_long_history_stays_small_and_a_whole_wiring_is_as_good() -> None:
    read = history([(7 * n, n - 1) for n in range(1, 40)])
    document = write_job(read)
    assert all("changes" in r for r in document["revisions"])
    one = len(json.dumps(write_job(history([]))))
    assert len(json.dumps(document)) < 10 * one, "forty wirings, though the craft is small"
    whole = write_job(history([]))
    for made in read.revisions[1:]:
        alone = write_job(replace(read, revisions=(made,)))
        keys = ("reference", "nodes", "sources", "elements", "scenarios")
        wiring = {key: alone[key] for key in keys}
        told = {"id": made.id, "stage": made.stage, "parent": made.parent, "made_at": made.made_at}
        whole.setdefault("revisions", []).append({**told, "folded": made.folded, "wiring": wiring})
    assert read_job(json.dumps(whole).encode()).revisions == read.revisions


def revised(change: dict[str, Any]) -> bytes:
    document = write_job(history([(0, 0)]))
    document["revisions"][0] |= change
    return json.dumps({**document, "revisions": [
        {k: v for k, v in r.items() if v is not None} for r in document["revisions"]
    ]}).encode()  # fmt: skip


@pytest.mark.parametrize(
    ("change", "path", "problem"),
    [
        ({"changes": {"from": "nobody"}}, "revisions[0].changes.from", "there is no nobody above"),
        ({"changes": {"from": "r1"}}, "revisions[0].changes.from", "there is no r1 above"),
        ({"changes": None}, "revisions[0]", "has no wiring, or two"),
        ({"changes": {"from": "r0", "gone": {"elements": ["x"]}}}, "revisions[0].changes.gone.elements[0]",
         "there is no x to be gone"),
        ({"changes": {"from": "r0", "order": {"nodes": ["b+"]}}}, "revisions[0].changes.order.nodes",
         "does not name every part once"),
        ({"changes": {"from": "r0", "nodes": [{"id": "q"}, {"id": "q"}]}}, "revisions[0].changes.nodes",
         "an id stands twice"),
        ({"changes": {"from": "r0", "gone": {"nodes": ["l+"]}}}, "revisions[0].changes", ""),
        ({"changes": {"from": "r0", "elements": [
            {"id": "w9", "kind": "conductor", "from": "b+", "to": "b-", "side": "feed", "length_m": 1,
             "size": {"system": "mm2", "value": "9.9"}}]}}, "revisions[0].changes.elements[0]", ""),
    ],
)  # fmt: skip
def test_what_is_wrong_with_changes_is_named(
    change: dict[str, Any], path: str, problem: str
) -> None:
    with pytest.raises(JobFileErrors) as refused:
        read_job(revised(change))
    first = refused.value.errors[0]
    assert first.path.startswith(path)
    assert problem in first.problem


def test_all_wirings_together_have_a_bound(monkeypatch: pytest.MonkeyPatch) -> None:
    """A small file may stand for wirings without end."""
    monkeypatch.setattr(job_file, "MOST_PARTS", 60)
    with pytest.raises(JobFileErrors, match="too many pieces in all"):
        read_job(json.dumps(write_job(history([(0, 0)] * 12))).encode())
