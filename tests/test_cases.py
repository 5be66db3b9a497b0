"""Job files with readings, and what must and must not be said of them, by the command line."""

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from spare_margin.cli import main

CASES = sorted((Path(__file__).parent / "cases").glob("*.json"))


@pytest.mark.parametrize("case", CASES, ids=lambda path: path.stem)
def test_what_is_said_of_a_case(case: Path, tmp_path: Path) -> None:
    held = json.loads(case.read_text("utf-8"))
    job = tmp_path / "job.json"
    job.write_text(json.dumps(held["job"]), "utf-8")
    chosen = [f"--{key}={held['expect'][key]}" for key in ("run", "stage") if key in held["expect"]]
    ran = CliRunner().invoke(main, ["judge", str(job), *chosen])
    assert ran.exit_code == 0, ran.output
    said = json.loads(ran.output)
    _never_more_than_there_is(held, said)
    _as_expected(held["expect"], said)


def _never_more_than_there_is(held: dict[str, Any], said: dict[str, Any]) -> None:
    most = held["expect"].get(
        "loaded_max", max(s["open_circuit_v"] for s in held["job"]["sources"]) + 0.7
    )
    lost = [span["loaded_v"] for span in said["spans"]]
    lost += [side["loaded_v"] for side in said["sides"].values() if side]
    assert all(abs(volts) <= most for volts in lost if volts is not None)


def _as_expected(want: dict[str, Any], said: dict[str, Any]) -> None:
    for key in ("verdict", "done"):
        assert said[key] in want.get(key, [said[key]]), key
        assert said[key] not in want.get(f"{key}_not", []), key
    if want.get("next"):
        assert said["next"] is not None
    _suspects_as_expected(want, said["suspects"])
    sides = {name: (side or {}).get("verdict") for name, side in said["sides"].items()}
    assert sides.get(want.get("side_over", ""), "over") == "over"
    assert sides.get(want.get("side_not_over", "")) != "over"
    _found_as_expected(want, said)
    found = set(said["findings"])
    assert set(want.get("findings", [])) <= found
    assert not set(want.get("findings_not", [])) & found
    assert not want.get("findings_any") or set(want["findings_any"]) & found


def _suspects_as_expected(want: dict[str, Any], said: list[dict[str, Any]]) -> None:
    suspects: dict[str, float] = {}
    for each in said:
        suspects[each["element"]] = suspects.get(each["element"], 0.0) + each["probability"]
    ranked = sorted(suspects, key=lambda key: -suspects[key])
    top = ranked[0] if ranked else None
    first = next((s for s in said if s["element"] == top), {})
    if "top" in want:
        assert top == want["top"]
        assert suspects[want["top"]] >= want.get("top_p", 0.0)
    assert first.get("fault") == want.get("fault", first.get("fault"))
    if "excess" in want:
        ohm, share = want["excess"]
        assert first["excess_ohm"] == pytest.approx(ohm, rel=share)
    if "among_top3" in want:
        assert set(want["among_top3"]) & set(ranked[:3])
    for element, most in want.get("not_suspects", {}).items():
        assert suspects.get(element, 0.0) <= most, element
    for element, least in want.get("at_least", {}).items():
        assert suspects.get(element, 0.0) >= least, element


def _found_as_expected(want: dict[str, Any], said: dict[str, Any]) -> None:
    assert set(want.get("found", [])) <= set(said["found"])
    assert not set(want.get("not_found", [])) & set(said["found"])
    assert not set(want.get("not_cleared", [])) & set(said["cleared"])
    if "found_none" in want:
        assert said["found"] == []
    assert said["between"] == want.get("between", said["between"])
