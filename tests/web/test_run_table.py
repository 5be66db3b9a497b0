"""The table of runs: pasted, understood, kept, changed in place, and out again."""

from typing import Any

from flask.testing import FlaskClient

PASTED = (
    "Load\tA\tLength\tPanel\tMust not fail\n"
    "Cold box\t5\t6\tPanel\t\n"
    "Mast lamp\t1\t9\tPanel\tyes\n"
    "Sump pump\t7 A x3\t4\tPanel\tx\n"
    "Windlass\t80\t8\t\t\n"
)


def boat(client: FlaskClient) -> str:
    asked = {"title": "Ketch", "craft": "boat", "nominal_v": 12, "polarity": "none", "battery": "agm",
             "capacity": "200"}  # fmt: skip
    return f"/api/v1/jobs/{client.post('/api/v1/jobs/new', json=asked).json['id']}"


def table(client: FlaskClient, job: str) -> dict[str, Any]:
    return client.get(f"{job}/run-table").json  # type: ignore[no-any-return]


def keep(client: FlaskClient, job: str, rows: list[dict[str, Any]], **more: Any) -> Any:
    now = table(client, job)
    body = {"stage": now["stage"], "revision": now["revision"], "rows": rows, **more}
    return client.post(f"{job}/run-table", json=body)


def pasted(client: FlaskClient, job: str, text: str = PASTED) -> list[dict[str, Any]]:
    read = client.post(f"{job}/run-table/read", json={"text": text}).json
    assert all(row["good"] for row in read["rows"]), read
    return [
        {"cells": {cell: v["text"] for cell, v in row["cells"].items()}} for row in read["rows"]
    ]


def test_a_pasted_table_is_understood_before_anything_is_kept(client: FlaskClient) -> None:
    job = boat(client)
    text = PASTED.replace("7 A x3", "a lot").replace("\t9\t", "\t\t")
    read = client.post(f"{job}/run-table/read", json={"text": text}).json
    assert [row["good"] for row in read["rows"]] == [True, False, False, True]
    assert read["rows"][1]["cells"]["length"]["wrong"].startswith(
        "Is empty. Allowed: metres one way"
    )
    assert "a lot" in read["rows"][2]["cells"]["draws"]["text"]
    assert read["rows"][2]["cells"]["draws"]["wrong"]
    assert read["panels"] == ["Panel"], "nothing feeds it yet"
    assert table(client, job)["rows"] == []
    assert client.post(f"{job}/run-table/read", json={"text": " "}).status_code == 422


def test_a_table_is_kept_at_once_with_the_panel_it_begins_at(client: FlaskClient) -> None:
    job = boat(client)
    rows = pasted(client, job)
    refused = keep(client, job, rows)
    assert refused.status_code == 422
    assert refused.json["errors"][0]["field"] == "rows[0].panel"
    assert "nothing feeds Panel yet" in refused.json["detail"]
    assert table(client, job)["rows"] == [], "all or nothing"
    kept = keep(client, job, rows, panels={"Panel": "2"})
    assert kept.json["said"] == "4 runs added."
    now = table(client, job)
    assert now["panels"] == ["Panel +"]
    assert [(r["cells"]["load"], r["cells"]["panel"]) for r in now["rows"]] == [
        ("Cold box", "Panel +"), ("Mast lamp", "Panel +"), ("Sump pump", "Panel +"), ("Windlass", ""),
    ]  # fmt: skip
    # Eighty amperes go through two wires: no twin cable is that thick.
    assert [r["cells"]["cable"] for r in now["rows"]] == ["twin", "twin", "twin", "single"]
    craft = client.get(f"{job}/craft").json
    own = {r["name"]: r["scenario"] if "scenario" in r else r["worst_name"] for r in craft["runs"]}
    assert "Windlass" in own
    assert any("Windlass" in s["name"] for s in craft["scenarios"]), "a state of its own"


def test_cells_are_changed_in_place_and_undone(client: FlaskClient) -> None:
    job = boat(client)
    keep(client, job, pasted(client, job), panels={"Panel": "2"})
    first, second = (r["run"] for r in table(client, job)["rows"][:2])
    made = keep(client, job, [
        {"run": first, "cells": {"load": "Cold box aft", "draws": "45 W", "length": "6.5", "size": "4",
                                 "fuse": "breaker 10", "critical": "yes"}},
        {"run": second, "cells": {"size": "2x1.5"}},
    ])  # fmt: skip
    assert made.json["said"] == "2 runs changed."
    cells = table(client, job)["rows"][0]["cells"]
    assert cells == {
        "load": "Cold box aft", "draws": "45 W", "length": "6.5", "cable": "twin", "size": "4 mm\u00b2",
        "fuse": "breaker 10", "joints": "1", "panel": "Panel +", "critical": "yes",
    }  # fmt: skip
    assert table(client, job)["rows"][1]["cells"]["size"] == "1.5 mm\u00b2"
    client.post(f"{job}/steps", json={"stage": "as_found", "direction": "undo"})
    assert table(client, job)["rows"][0]["cells"]["draws"] == "5"
    # Back to no size: it is to be sized again.
    keep(client, job, [{"run": first, "cells": {"size": "4"}}])
    keep(client, job, [{"run": first, "cells": {"size": ""}}])
    assert table(client, job)["rows"][0]["cells"]["size"] == ""


def test_a_wrong_cell_changes_nothing_and_is_named(client: FlaskClient) -> None:
    job = boat(client)
    keep(client, job, pasted(client, job), panels={"Panel": "2"})
    before = table(client, job)
    first, second = (r["run"] for r in before["rows"][:2])
    for cells, field in (
        ({"length": "far"}, "rows[1].length"), ({"panel": "Bow"}, "rows[1].panel"),
        ({"fuse": "none"}, "rows[1].fuse"), ({"cable": "body"}, "rows[1].cable"),
        ({"load": ""}, "rows[1].load"), ({"size": "3.3"}, "rows[1].size"),
    ):  # fmt: skip
        answer = keep(
            client, job, [{"run": first, "cells": {"length": "7"}}, {"run": second, "cells": cells}]
        )
        assert answer.status_code == 422, cells
        assert answer.json["errors"][0]["field"] == field
    assert keep(client, job, [{"run": "nothing", "cells": {"length": "7"}}]).status_code == 422
    assert table(client, job) == before


def test_what_a_row_cannot_say_is_fixed(demo: FlaskClient) -> None:
    job = "/api/v1/jobs/demo-1-sloop-marram"
    rows = table(demo, job)["rows"]
    assert len(rows) == len(demo.get(f"{job}/craft").json["runs"])
    assert all({"joints", "panel"} <= set(r["fixed"]) for r in rows)
    stuck = next(r for r in rows if "length" in r["fixed"])
    answer = keep(demo, job, [{"run": stuck["run"], "cells": {"length": "99"}}])
    assert answer.status_code == 422
    same = keep(demo, job, [{"run": r["run"], "cells": r["cells"]} for r in rows])
    assert same.status_code == 200, same.json
    assert same.json["stages"] == [], "nothing is otherwise"


def test_the_table_goes_out_and_comes_in_again(client: FlaskClient) -> None:
    job = boat(client)
    keep(client, job, pasted(client, job), panels={"Panel": "2"})
    text = client.get(f"{job}/run-table/csv").get_data(as_text=True)
    assert text.splitlines()[0].startswith("load,draws (A),length one way")
    other = boat(client)
    rows = pasted(client, other, text)
    assert keep(client, other, rows, panels={"Panel +": "2"}).status_code == 200
    assert client.get(f"{other}/run-table/csv").get_data(as_text=True) == text


def test_a_vehicles_runs_come_back_by_the_body(client: FlaskClient) -> None:
    asked = {"title": "Van", "craft": "vehicle", "nominal_v": 12, "polarity": "negative", "battery": "agm",
             "capacity": "90"}  # fmt: skip
    job = f"/api/v1/jobs/{client.post('/api/v1/jobs/new', json=asked).json['id']}"
    assert table(client, job)["usual_cable"] == "body"
    rows = [{"cells": {"load": "Fan", "draws": "3", "length": "4", "panel": "Box"}}]
    assert keep(client, job, rows, panels={"Box": "1.5"}).status_code == 200
    (row,) = table(client, job)["rows"]
    assert (row["cells"]["cable"], row["cells"]["panel"]) == ("body", "Box +")
    (run,) = client.get(f"{job}/craft").json["runs"]
    assert 'load "Fan" 3 A > ring on stud > body [Battery \u2212 clamp]' in run["text"]


def test_forty_runs_are_kept_at_once(client: FlaskClient) -> None:
    job = boat(client)
    text = "Load,A,Length,Panel\n" + "".join(f"Lamp {n},1,{n % 9 + 1},Panel\n" for n in range(40))
    assert keep(client, job, pasted(client, job, text), panels={"Panel": "2"}).status_code == 200
    assert len(table(client, job)["rows"]) == 40


def hold(client: FlaskClient, job: str, **said: Any) -> Any:
    return client.post(f"{job}/run-table/limits", json=said)


def ceilings(client: FlaskClient, job: str, run: str) -> tuple[float, float, float]:
    sheet = client.get(f"{job}/sheet?run={run}").json["run"]
    feed, back = (side["ceiling_v"] for side in sheet["sides"])
    return feed, back, sheet["round_trip_ceiling_v"]


def test_several_runs_are_held_to_a_limit_of_their_own(client: FlaskClient) -> None:
    job = boat(client)
    assert keep(client, job, pasted(client, job), panels={"Panel": "1.5"}).status_code == 200
    box, lamp = (row["run"] for row in table(client, job)["rows"][:2])
    was = ceilings(client, job, box)
    answer = hold(client, job, loads=[box, lamp], limit="5 %")
    assert answer.status_code == 200, answer.json
    assert answer.json["said"] == "2 runs held to 0.600 V in all."
    assert answer.json["before"] == {box: None, lamp: None}
    # 5 % of 12 V, each side in the proportion that the set has.
    feed, back, both = ceilings(client, job, box)
    assert abs(both - 0.6) < 1e-9
    assert abs(feed / back - was[0] / was[1]) < 1e-9
    assert [row["limit"] for row in table(client, job)["rows"][:3]] == [
        "0.600 V", "0.600 V", "",
    ]  # fmt: skip
    # Undo, and the limit set's own again by an empty box.
    undone = hold(client, job, own=answer.json["before"])
    assert undone.json["said"] == "2 runs held to the limit set."
    assert ceilings(client, job, box) == was
    again = hold(client, job, own=undone.json["before"]).json
    assert again["said"] == "2 runs held to 0.600 V in all."
    assert hold(client, job, loads=[box], limit="").json["said"] == "One run held to the limit set."
    assert ceilings(client, job, box) == was


def test_a_limit_that_is_none_is_refused_with_what_is_taken(client: FlaskClient) -> None:
    job = boat(client)
    assert keep(client, job, pasted(client, job), panels={"Panel": "1.5"}).status_code == 200
    box = table(client, job)["rows"][0]["run"]
    for wrong in ("much", "3", "0 %", "60 %", "9 V", "-1 V"):
        answer = hold(client, job, loads=[box], limit=wrong)
        assert answer.status_code == 422, wrong
        assert answer.json["errors"][0]["field"] == "limit", wrong
    answer = hold(client, job, loads=[box, "no-such"], limit="3 %")
    assert answer.json["errors"][0]["field"] == "loads"
    assert hold(client, job, own={"no-such": None}).status_code == 422
    assert table(client, job)["rows"][0]["limit"] == ""


def test_limits_of_their_own_go_out_and_come_in_with_the_job(client: FlaskClient) -> None:
    job = boat(client)
    assert keep(client, job, pasted(client, job), panels={"Panel": "1.5"}).status_code == 200
    box = table(client, job)["rows"][0]["run"]
    hold(client, job, loads=[box], limit="400 mV")
    held = client.get(f"{job}/file").json["limits"]["loads"][box]
    assert held["round_trip_v"] == 0.4
