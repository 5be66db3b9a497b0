"""The command line as a person meets it."""

import json
import socket
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from spare_margin.cli import main
from spare_margin.core.circuit.network import solve
from spare_margin.data.tables import demo_files, shipped_tables
from tests.conftest import EXAMPLES, craft_of, job_document, load, loop, piece, wire

BOAT = EXAMPLES / "boat-galley-and-capstan.json"


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(main, [str(w) for w in words])


def test_solve_prints_the_open_format() -> None:
    answer = run("solve", BOAT)
    assert answer.exit_code == 0
    document = json.loads(answer.stdout)
    assert document["scenario"] == "anchored"
    assert (document["format"], document["version"]) == ("spare-margin-solution", 1)
    assert document["converged"] is True
    assert document["nodes"]["pump+"] == pytest.approx(12.09534513914, abs=2e-6)
    assert set(document["elements"]["pump-wire"]) == {
        "current_a", "drop_v", "power_w", "resistance_ohm", "temperature_c",
    }  # fmt: skip


def test_solve_takes_a_scenario_and_writes_a_file(tmp_path: Path) -> None:
    out = tmp_path / "solution.json"
    answer = run("solve", BOAT, "--scenario", "weighing", "--out", out)
    assert (answer.exit_code, answer.stdout) == (0, "")
    assert json.loads(out.read_text())["scenario"] == "weighing"


def test_bad_jobs_exit_2_with_one_line(tmp_path: Path) -> None:
    bad = tmp_path / "bad.json"
    document = loop()
    document["elements"][1]["length_m"] = -1
    bad.write_text(json.dumps(document))
    for words in (
        ("solve", bad), ("solve", tmp_path / "none.json"), ("solve", tmp_path),
        ("solve", BOAT, "--scenario", "x"), ("solve", BOAT, "--out", tmp_path / "no" / "such"),
    ):  # fmt: skip
        answer = run(*words)
        assert answer.exit_code == 2
        assert len(answer.stderr.strip().splitlines()) == 1
    assert (
        f"{bad}: elements[1].length_m: -1 is too small; accepted: above 0"
        in run("solve", bad).stderr
    )


def test_a_stalling_load_exits_3_and_is_named(tmp_path: Path) -> None:
    job = tmp_path / "job.json"
    stall = job_document(
        [piece("p", "b+", "l+", resistance_ohm=2.0), load(end="b-", behaviour="constant_power",
         power_w=60)]
    )  # fmt: skip
    job.write_text(json.dumps(stall))
    answer = run("solve", job)
    assert answer.exit_code == 3
    assert "load l (Load l) would stall" in answer.stderr


def test_a_taken_port_gets_one_plain_sentence(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        for words in (("demo",), ("serve", "--database", tmp_path / "x.sqlite3")):
            answer = run(*words, "--port", str(port))
            assert answer.exit_code == 1
            assert answer.stderr.strip().startswith(f"Port {port} is taken")


def test_five_thousand_pieces_solve() -> None:
    """Large crafts take the sparse way; the answer is still exact."""
    elements, n = [], 250
    for i in range(n):
        points = ["b+", *(f"p{i}.{k}" for k in range(9)), f"l{i}"]
        elements += [
            wire(f"w{i}.{k}", a, b, length_m=0.5) for k, (a, b) in enumerate(pairwise(points))
        ]
        elements.append(
            load(f"m{i}", f"l{i}", f"r{i}", behaviour="constant_current", current_a=0.1)
        )
        elements += [
            wire(f"x{i}.{k}", a, b, "return", length_m=0.5)
            for k, (a, b) in enumerate([(f"r{i}", f"s{i}"), (f"s{i}", "b-")])
        ]
    craft = craft_of(job_document(elements))
    solution = solve(craft, craft.scenario(), shipped_tables())
    assert solution.nodes["b+"] == pytest.approx(12.6 - 0.01 * 0.1 * n, abs=1e-9)
    drop = solution.volts("b+", "l7")
    assert drop == pytest.approx(10 * 0.5 * 0.00798 * 0.1, abs=1e-9)


HEADER = "red,black,volts,accuracy_v,source_v\n"


def readings(tmp_path: Path, *rows: str, head: str = HEADER) -> Path:
    path = tmp_path / "readings.csv"
    path.write_text(head + "".join(f"{row}\n" for row in rows))
    return path


def faulty(tmp_path: Path, ohm: float) -> tuple[Path, list[str]]:
    """A loop whose return pin has this much in it, and what a meter reads round it."""
    document = loop()
    path = tmp_path / "job.json"
    path.write_text(json.dumps(document))
    craft = craft_of(document)
    good = solve(craft, craft.scenario(), shipped_tables())
    pin = (good.elements["jr"].resistance_ohm or 0) + ohm
    bad = solve(craft, craft.scenario(), shipped_tables(), resistances={"jr": pin})
    spans = [("b+", "b-"), ("l+", "l-"), ("l-", "b-"), ("l-", "r1")]
    return path, [
        f"{a},{b},{bad.volts(a, b):.4f},0.004,{bad.volts('b+', 'b-'):.3f}" for a, b in spans
    ]


def test_diagnose_names_the_guilty_piece(tmp_path: Path) -> None:
    job, rows = faulty(tmp_path, 0.09)
    document = json.loads(run("diagnose", job, readings(tmp_path, *rows)).stdout)
    assert (document["format"], document["version"]) == ("spare-margin-diagnosis", 1)
    first = document["candidates"][0]
    assert (first["element"], first["fault"]) == ("jr", "excess_resistance")
    assert first["probability"] > 0.95
    assert first["excess_ohm"] == pytest.approx(0.09, rel=0.12)
    assert (document["done"], document["next_probe"]) == (True, None)
    odds = [c["probability"] for c in document["candidates"]]
    assert odds == sorted(odds, reverse=True)


def test_diagnose_asks_on_while_it_is_not_sure(tmp_path: Path) -> None:
    job, rows = faulty(tmp_path, 0.09)
    document = json.loads(run("diagnose", job, readings(tmp_path, *rows[:2])).stdout)
    assert document["done"] is False
    assert set(document["next_probe"]) == {"red", "black", "bits"}
    assert document["next_probe"]["bits"] > 0.1
    empty = json.loads(run("diagnose", job, readings(tmp_path)).stdout)
    assert empty["candidates"][0]["fault"] == "none"


@pytest.mark.parametrize(
    ("rows", "head", "says"),
    [
        (["b+,nowhere,1,0.1,"], HEADER, "line 2, black: there is no nowhere"),
        (["b+,b+,1,0.1,"], HEADER, "line 2, black: both leads"),
        (["b+,b-,x,0.1,"], HEADER, "line 2, volts: 'x' is not a number"),
        (["b+,b-,nan,0.1,"], HEADER, "line 2, volts: nan is out of bounds"),
        (["b+,b-,1,-0.1,"], HEADER, "line 2, accuracy_v: -0.1 is out of bounds"),
        (["b+,b-,1"], HEADER, "line 2: has 3 cells"),
        ([], "a,b\n", "line 1: is not the head line"),
        ([], "", "line 1: is not the head line"),
    ],
)
def test_diagnose_refuses_bad_readings(
    tmp_path: Path, rows: list[str], head: str, says: str
) -> None:
    job, _ = faulty(tmp_path, 0.1)
    answer = run("diagnose", job, readings(tmp_path, *rows, head=head))
    assert answer.exit_code == 2
    assert says in answer.stderr
    assert len(answer.stderr.strip().splitlines()) == 1


def test_judge_of_a_plan_keeps_what_was_measured(tmp_path: Path) -> None:
    """The fault stands in what the plan keeps, and is gone with the piece it changes."""
    held = json.loads((Path(__file__).parent / "cases" / "measure-first-return.json").read_text())
    job = held["job"]
    found = json.loads(_judged(tmp_path, job))
    guilty = found["suspects"][0]["element"]
    wiring = {key: job[key] for key in ("nodes", "sources", "elements", "scenarios")}
    for swapped, left in ((None, True), (guilty, False)):
        elements = [
            {**e, "name": "Remade", "repair": "remade"} if e["id"] == swapped else e
            for e in wiring["elements"]
        ]
        plan = {
            "id": "plan", "stage": "planned", "parent": job.get("revision", "as-found"),
            "made_at": "2026-05-01T08:00:00Z", "summary": "Planned",
            "wiring": {**wiring, "elements": elements},
        }  # fmt: skip
        said = json.loads(_judged(tmp_path, {**job, "revisions": [plan]}, "--stage=planned"))
        assert said["stage"] == "planned"
        assert said["spans"] == []
        assert (guilty in {s["element"] for s in said["suspects"]}) == left
        assert said["verdict"] == ("over" if left else "within")


def test_judge_leaves_out_what_was_read_before_the_repair(tmp_path: Path) -> None:
    job = json.loads(dict(demo_files())["3-show-truck-dunlin"])
    assert json.loads(_judged(tmp_path, job, "--stage=as_left"))["verdict"] == "within"
    left = next(r for r in job["revisions"] if r["stage"] == "as_left")
    left["made_at"] = "2026-11-01T12:00:00Z"
    late = json.loads(_judged(tmp_path, job, "--stage=as_left"))
    assert late["verdict"] == "not_judged"
    assert "changed" in late["findings"]


def _judged(folder: Path, job: dict[str, Any], *more: str) -> str:
    file = folder / "job.json"
    file.write_text(json.dumps(job), "utf-8")
    ran = CliRunner().invoke(main, ["judge", str(file), *more])
    assert ran.exit_code == 0, ran.output
    return ran.output


def to_size(tmp_path: Path, **limits: float) -> Path:
    """A job file of one run of 10 A, 5 m each way, whose two wires are to be sized."""
    document = job_document(
        [
            wire("a", "b+", "p+", mm2="auto"),
            wire("b", "p-", "b-", "return", mm2="auto"),
            load("l1", "p+", "p-", behaviour="constant_current", current_a=10),
        ],
        limits={"loads": {"l1": limits}},
    )
    path = tmp_path / "size.json"
    path.write_text(json.dumps(document))
    return path


def test_size_prints_the_least_copper(tmp_path: Path) -> None:
    """0.2 V at 10 A over 5 m allow 4 mohm a metre: 6 mm2 has 3.30, 4 mm2 has 4.95."""
    answer = run("size", to_size(tmp_path, feed_v=0.2, return_v=0.3))
    assert answer.exit_code == 0, answer.output
    document = json.loads(answer.stdout)
    assert (document["format"], document["version"]) == ("spare-margin-sizing", 1)
    assert (document["status"], document["objective"]) == ("optimal", 50.0)
    assert document["sizes"] == {"a": "6", "b": "4"}
    assert document["loads"]["l1"]["return_v"] == pytest.approx(10 * 5 * 4.95e-3)


@pytest.mark.parametrize(
    ("rating", "insulation", "current", "sizes"),
    [
        # Volts allow 0.5 mm2 here. Its fuse wants 30 A borne: 2.5 mm2 of 105 C bears 35, 1.5 only 25.
        (30, 105, 1.0, {"a": "2.5", "b": "2.5"}),
        # Insulation that nobody said may be of the weakest kind, which bears 29 A at 4 mm2, 20 at 2.5.
        (25, None, 1.0, {"a": "4", "b": "4"}),
        # No fuse at all: the mechanical minimum.
        (None, 105, 1.0, {"a": "0.75", "b": "0.75"}),
    ],
)
def test_size_keeps_what_the_fuse_asks_and_the_mechanical_minimum(
    tmp_path: Path,
    rating: float | None,
    insulation: float | None,
    current: float,
    sizes: dict[str, str],
) -> None:
    more = {} if insulation is None else {"insulation_c": insulation}
    start = "b+" if rating is None else "f1"
    elements = [
        wire("a", start, "p+", mm2="auto", **more),
        wire("b", "p-", "b-", "return", mm2="auto", **more),
        load("l1", "p+", "p-", behaviour="constant_current", current_a=current),
    ]
    if rating is not None:
        elements.append(piece("f", "b+", "f1", kind="fuse", rating_a=rating))
    path = tmp_path / "size.json"
    path.write_text(json.dumps(job_document(elements, limits={"loads": {"l1": {"feed_v": 6}}})))
    answer = run("size", path)
    assert answer.exit_code == 0, answer.output
    assert json.loads(answer.stdout)["sizes"] == sizes


def test_size_rates_fuses_and_sizes_what_has_no_size_with_the_reasons(tmp_path: Path) -> None:
    """10 A for long want 12.5: 15. Of the weakest insulation, which nobody ruled out, 1.5 mm2 bears 15 A;
    the return may lose 0.2 V over 5 m: 6 mm2, as 4 mm2 loses 0.2475.
    """
    free = [wire("a", "f1", "p+", length_m=5), wire("b", "p-", "b-", "return", length_m=5)]
    for each in free:
        del each["size"]
    elements = [
        piece("f", "b+", "f1", kind="fuse", rating_a="auto"),
        *free,
        load("l1", "p+", "p-", behaviour="constant_current", current_a=10),
    ]
    path = tmp_path / "size.json"
    limits = {"loads": {"l1": {"feed_v": 6, "return_v": 0.2}}}
    path.write_text(json.dumps(job_document(elements, limits=limits)))
    answer = run("size", path)
    assert answer.exit_code == 0, answer.output
    document = json.loads(answer.stdout)
    assert document["fuses"] == {"f": 15.0}
    assert document["sizes"] == {"a": "1.5", "b": "6"}
    scenario = document["because"]["b"].pop("scenario")
    assert document["because"] == {
        "a": {"forced": "fuse", "fuse_a": 15.0},
        "b": {"forced": "ceiling", "ceiling": "return", "load": "l1"},
    }
    assert scenario
    assert run("solve", path).exit_code == 2, "only a sizing takes a rating that is to be chosen"


def test_size_takes_the_stock_and_prices(tmp_path: Path) -> None:
    path = to_size(tmp_path, round_trip_v=0.4)
    document = json.loads(path.read_text()) | {"stock": ["1.5", "10"]}
    path.write_text(json.dumps(document))
    assert json.loads(run("size", path).stdout)["sizes"] == {"a": "10", "b": "10"}
    priced = json.loads(run("size", path, "--objective", "price").stdout)
    assert priced["objective"] == pytest.approx(33.0)
    path.write_text(json.dumps(document | {"stock": ["3.3"]}))
    assert "stock[0]: there is no size 3.3" in run("size", path).stderr


def test_size_says_what_cannot_be_kept(tmp_path: Path) -> None:
    answer = run("size", to_size(tmp_path, feed_v=0.001))
    assert (answer.exit_code, answer.stdout) == (4, "")
    assert len(answer.stderr.strip().splitlines()) == 1
    assert "l1" in answer.stderr
    assert "the feed is still" in answer.stderr
    anyway = json.loads(
        run("size", to_size(tmp_path, feed_v=0.001, return_v=0.3), "--anyway").stdout
    )
    assert anyway["sizes"]["b"] == "4", "the return keeps its limit as ever"
    ((over),) = anyway["over"]
    assert (over["load"], over["ceiling"]) == ("l1", "feed")
    assert over["by_v"] == pytest.approx(anyway["loads"]["l1"]["feed_v"] - 0.001)
    kept = json.loads(run("size", to_size(tmp_path, feed_v=0.2), "--anyway").stdout)
    assert kept["over"] == []


def test_only_size_takes_a_wire_without_a_size(tmp_path: Path) -> None:
    answer = run("solve", to_size(tmp_path, feed_v=0.2))
    assert answer.exit_code == 2
    assert "no row for mm2 auto" in answer.stderr
