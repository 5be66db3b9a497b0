"""What accepted readings teach: which pieces are taken, medians and spreads by hand, what is offered."""

import math
import random
import sqlite3
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.evidence.verdict.accepted import Sample, accepted, learned
from spare_margin.store import records
from spare_margin.store.file.database import connect, transaction
from spare_margin.store.records import Record
from tests.core.test_proof import EXCESS, PIN, TABLES, before_craft, measured, remade
from tests.web.test_api import the_list


def sample(ohm: float, drawn: float = 0.003, **more: str) -> Sample:
    return Sample(
        **{"kind": "joint", "style": "pin", "place": "boat", **more}, ohm=ohm, drawn_ohm=drawn
    )  # type: ignore[arg-type]


def test_only_a_run_that_is_accepted_teaches() -> None:
    craft = remade(before_craft())
    drawn = closed_ohms(craft, TABLES)
    good = accepted(measured(craft, warm_min=15.0).judged().judgement, drawn)
    assert PIN in good
    assert good[PIN].ohm == pytest.approx(drawn[PIN], rel=0.15)
    assert (good[PIN].kind, good[PIN].style, good[PIN].place) == ("joint", "pin", "boat")
    bad = measured(before_craft(), EXCESS, warm_min=15.0).judged().judgement
    assert accepted(bad, drawn) == {}


def test_medians_and_spreads_by_hand() -> None:
    """1, 2, 4, 8, 16 mohm, 4 drawn: the median is 4; the quantiles of five lie at 0.64 and 3.36."""
    jobs = [[sample(0.001), sample(0.002), sample(0.004)], [sample(0.008), sample(0.016)]]
    jobs = [[Sample(s.kind, s.style, s.place, s.ohm, 0.004) for s in job] for job in jobs]
    found = next(x for x in learned(jobs) if (x.style, x.place) == ("pin", ""))
    assert (found.count, found.jobs, found.enough) == (5, 2, True)
    assert found.median_ohm == pytest.approx(0.004)
    assert found.low_ohm == pytest.approx(0.001 * 2**0.64)
    assert found.high_ohm == pytest.approx(0.001 * 2**3.36)
    assert found.spread == pytest.approx((3.36 - 0.64) / 2 * math.log(2))


def test_a_kind_a_style_and_a_place_are_told_apart() -> None:
    jobs = [[sample(0.003)], [sample(0.001, style="splice", place="vehicle")]]
    keys = {(x.style, x.place): x.count for x in learned(jobs)}
    assert keys == {
        ("pin", "boat"): 1, ("pin", ""): 1, ("splice", "vehicle"): 1, ("splice", ""): 1, ("", ""): 2,
    }  # fmt: skip


@given(
    st.lists(st.floats(1e-4, 0.1), min_size=1, max_size=20), st.floats(0.1, 10), st.integers(1, 4)
)
def test_laws_of_learning(ohms: list[float], times: float, jobs: int) -> None:
    """Thicker meters change nothing of a spread; the order of jobs nothing at all."""
    split = [[sample(r) for r in ohms[i::jobs]] for i in range(jobs)]
    found = learned(split)
    for each in found:
        assert each.low_ohm <= each.median_ohm <= each.high_ohm * (1 + 1e-12)
        assert each.spread >= 0
    shuffled = list(split)
    random.Random(1).shuffle(shuffled)
    again = {(x.kind, x.style, x.place): x for x in learned(shuffled)}
    scaled = {
        (x.kind, x.style, x.place): x
        for x in learned([[sample(s.ohm * times) for s in job] for job in split])
    }
    for each in found:
        key = each.kind, each.style, each.place
        assert again[key].median_ohm == pytest.approx(each.median_ohm)
        assert scaled[key].spread == pytest.approx(each.spread, abs=1e-9)
        assert scaled[key].median_ohm == pytest.approx(each.median_ohm * times)


# Over HTTP


@pytest.fixture
def taught(demo: FlaskClient, tmp_path: Path) -> FlaskClient:
    """The demo, and three more jobs with pins that were read and accepted."""
    the_list(demo)
    connection = connect(tmp_path / "demo.sqlite3")
    row = dict(connection.execute("SELECT * FROM job LIMIT 1").fetchone())
    with transaction(connection):
        for i in range(3):
            _add(
                connection,
                {**row, "id": f"taught-{i}"},
                [sample(0.004 + 0.001 * i + 0.0002 * k) for k in range(2)],
            )
    connection.close()
    return demo


def _add(connection: sqlite3.Connection, row: dict[str, object], samples: list[Sample]) -> None:
    names = ", ".join(row)
    connection.execute(
        f"INSERT INTO job ({names}) VALUES ({', '.join('?' * len(row))})", tuple(row.values())
    )
    shown = {"craft": "boat"}
    found = Record("left", "within", ("joint",), "joint", "Pin", "pin", "", tuple(samples))
    records.keep(connection, str(row["id"]), shown, found)


def test_what_is_learned_is_offered_taken_and_undone(taught: FlaskClient) -> None:
    table = taught.get("/api/v1/learned").get_json()
    pin = next(r for r in table["pieces"] if r["style"] == "pin" and not r["place"])
    assert (pin["count"], pin["jobs"], pin["taken"]) == (6, 3, False)
    assert pin["held"] == "2 to 5 mΩ, aged 10 mΩ"
    assert pin["median"]["text"] == "5.1"
    # 4.0, 4.2, 5.0, 5.2, 6.0, 6.2 milliohm: quantiles 0.16 and 0.84 lie at 0.8 and 4.2 of five steps.
    assert pin["row"] == {
        "kind": "joint", "style": "pin", "name": "pin or blade in a connector",
        "good_low_milliohm": "4.16", "good_high_milliohm": "6.04", "aged_milliohm": "12.1",
        "source": "learned here: 6 accepted readings of 3 jobs",
    }  # fmt: skip
    at_boats = next(r for r in table["pieces"] if r["style"] == "pin" and r["place"] == "boat")
    assert at_boats["row"] is None
    kept = taught.post("/api/v1/tables/fixed_pieces/rows", json={"rows": [{"cells": pin["row"]}]})
    assert kept.status_code == 200, kept.get_json()
    again = taught.get("/api/v1/learned").get_json()
    now = next(r for r in again["pieces"] if r["style"] == "pin" and not r["place"])
    assert now["taken"]
    assert (
        taught.post("/api/v1/tables/fixed_pieces/rows", json=kept.get_json()["undo"]).status_code
        == 200
    )
    back = taught.get("/api/v1/learned").get_json()
    assert not next(r for r in back["pieces"] if r["style"] == "pin")["taken"]
    joint = next(r for r in table["spreads"] if r["kind"] == "joint")
    assert joint["row"]["source"].startswith("learned here: ")
    assert (
        taught.post(
            "/api/v1/tables/spreads/rows", json={"rows": [{"cells": joint["row"]}]}
        ).status_code
        == 200
    )


def test_culprits_are_counted(taught: FlaskClient) -> None:
    found = taught.get("/api/v1/learned").get_json()["culprits"]
    assert found[0] == {"name": "Joint", "place": "boat", "jobs": 4}


def test_the_demo_teaches_by_its_accepted_lift(demo: FlaskClient) -> None:
    the_list(demo)
    table = demo.get("/api/v1/learned").get_json()
    kinds = {r["style"] for r in table["pieces"]}
    assert "post clamp" in kinds
    assert all(r["row"] is None for r in table["pieces"]), "one job is too few"
