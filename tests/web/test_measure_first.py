"""From nothing to a verdict over the API: one load checked, stretches split, every way of testing."""

import uuid
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.conftest import Document
from tests.web.test_walk import note, stood_in, walk

ONE = {"current": "4.6", "return": "0.10", "feed": "1.32"}


def checked(client: FlaskClient, **more: Any) -> str:
    answer = client.post("/api/v1/jobs/check", json={"name": "Sump pump", "what": "pump", **more})
    assert answer.status_code == 201, answer.json
    assert answer.json["run"] == "load"
    return f"/api/v1/jobs/{answer.json['id']}"


def keep(client: FlaskClient, job: str, red: str, black: str, typed: str, **more: Any) -> Any:
    stands = walk(client, job)
    body = {
        "id": uuid.uuid4().hex, "stage": "as_found", "scenario": stands["scenario"],
        "revision": stands["revision"], "red": red, "black": black, "typed": typed, **more,
    }  # fmt: skip
    return client.post(f"{job}/readings", json=body)


def answered(client: FlaskClient, job: str, readings: dict[str, str]) -> Document:
    """Answers cards for as long as there is an answer; where the walk stands then."""
    while True:
        stands = walk(client, job)
        card = stands["now"]
        if card is None or card["id"] not in readings:
            return stands
        quantity = "amperes" if card["kind"] == "current" else "volts"
        kept = keep(
            client, job, card["red"]["id"], card["black"]["id"], readings[card["id"]],
            quantity=quantity,
        )  # fmt: skip
        assert kept.status_code == 200, kept.json


def split(client: FlaskClient, job: str, **more: Any) -> Any:
    stands = walk(client, job)
    body = {
        "stage": "as_found", "revision": stands["revision"], "run": "load", "place": "fuse",
        "piece": (stands["split"] or {}).get("piece", "u1"), **more,
    }  # fmt: skip
    return client.post(f"{job}/walk/splits", json=body)


def test_a_run_that_is_not_known_counts_once_it_is_measured(client: FlaskClient) -> None:
    job = checked(client)
    at = {"run": "load"}
    assert client.get(f"{job}/run-by-run").json["unknown"] == ["Sump pump"]
    assert client.get(f"{job}/sizing").json["ways"] == []
    assert client.get(f"{job}/upgrade", query_string=at).json["spare_v"] is None
    answered(client, job, ONE)
    assert client.get(f"{job}/run-by-run").json["unknown"] == []
    (as_is, *_) = client.get(f"{job}/sizing").json["ways"]
    assert (as_is["runs"], as_is["over"], as_is["unknown"]) == (1, 1, [])
    assert client.get(f"{job}/upgrade", query_string=at).json["spare_v"] < 0


def test_a_run_measured_within_is_known_on_the_bench_too(client: FlaskClient) -> None:
    job = checked(client)
    answered(client, job, {**ONE, "feed": "0.21", "return": "0.09"})
    bench = client.get(f"{job}/upgrade", query_string={"run": "load"}).json
    assert bench["spare_v"] > 0
    assert not any("not known" in why for why in bench["refused"])


def test_three_readings_and_a_verdict(client: FlaskClient) -> None:
    job = checked(client)
    stands = answered(client, job, {**ONE, "feed": "0.21", "return": "0.09"})
    assert (stands["verdict"], stands["ending"]) == ("within", "good")
    assert len(stands["done"]) == 3, "the current, and each side across itself"


def test_nothing_is_made_up(client: FlaskClient) -> None:
    job = checked(client)
    stands = walk(client, job)
    assert stands["now"]["expect_says"] == "", "nobody knows what it draws"
    assert stands["now"]["bar"] is None
    document = client.get(f"{job}/file").json
    kinds = {e["id"]: e for e in document["elements"]}
    assert kinds["u1"] == {**kinds["u1"], "kind": "unknown"}
    assert not {"guess_ohm", "resistance_ohm"} & kinds["u1"].keys()
    assert not {"behaviour", "current_a", "power_w"} & kinds["load"].keys()
    again = client.post("/api/v1/jobs?how=copy", json=document)
    assert again.status_code == 201, again.json


def test_a_load_of_the_workshops_table_brings_its_figures(client: FlaskClient) -> None:
    job = checked(client, name="bilge PUMP")
    stands = walk(client, job)
    assert stands["now"]["expect_says"].startswith("expect about 4.5")
    other = checked(client, name="Bilge pump", nominal_v=24)
    assert walk(client, other)["now"]["expect_says"] == "", "the table's is one for 12 V"


@pytest.mark.parametrize(
    ("more", "field"),
    [({"name": "  "}, "name"), ({"nominal_v": 13}, "nominal_v"), ({"what": "toaster"}, "what"),
     ({"name": "x" * 300}, "name")],
)  # fmt: skip
def test_a_check_that_is_wrong_names_its_field(
    client: FlaskClient, more: dict[str, Any], field: str
) -> None:
    body = {"name": "Pump", "what": "pump", **more}
    answer = client.post("/api/v1/jobs/check", json=body)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field
    assert client.get("/api/v1/jobs").json["jobs"] == []


def test_what_is_out_of_bounds_is_refused_and_what_can_hurt_is_guarded(client: FlaskClient) -> None:
    assert walk(client, checked(client, name="Airbag module"))["refused"]
    fuel = walk(client, checked(client, name="Fuel pump", craft="vehicle"))
    assert [g["caution"]["id"] for g in fuel["guards"]] == ["battery", "petrol_gas"]


def test_a_bad_stud_is_found_by_splitting(client: FlaskClient) -> None:
    job = checked(client)
    stands = answered(client, job, {**ONE, "return": "0.92", "feed": "0.10"})
    assert stands["now"] is None
    assert stands["split"]["side"] == "return"
    assert "Sump pump \u2212 and Battery \u2212 post" in stands["split"]["says"]
    made = split(client, job, place="ring", name="Stud at the sump")
    assert made.status_code == 200, made.json
    wire, hull = made.json["points"]
    names = {p["id"]: p["name"] for p in walk(client, job)["points"]}
    assert names[wire] == "Stud at the sump, wire"
    card = client.get(f"{job}/walk/card", query_string={"red": wire, "black": hull}).json
    assert card["title"].startswith("Across Ring")
    assert keep(client, job, wire, hull, "0.85").status_code == 200
    while (stands := walk(client, job))["now"] is not None:
        ends = {stands["now"]["red"]["id"], stands["now"]["black"]["id"]}
        volts = {frozenset((wire, "back")): "0.86", frozenset((hull, "back")): "0.01",
                 frozenset(("return-terminal", wire)): "0.06",
                 frozenset(("return-terminal", hull)): "0.91"}[frozenset(ends)]  # fmt: skip
        keep(client, job, stands["now"]["red"]["id"], stands["now"]["black"]["id"], volts)
    assert stands["ending"] == "cornered"
    assert stands["suspects"][0]["name"].startswith("Ring on stud")


def test_a_stretch_with_nowhere_in_between_is_left_at_that(client: FlaskClient) -> None:
    job = checked(client)
    stands = answered(client, job, ONE)
    assert (
        note(client, job, "load", stands["split"]["step"], "skipped", "potted").status_code == 200
    )
    stands = walk(client, job)
    assert stands["split"] is None
    assert stands["ending"] == "cornered"
    assert "It lies in Battery + post to Sump pump +" in stands["verdict_says"]


def test_points_of_a_place_get_names_of_their_own(client: FlaskClient) -> None:
    job = checked(client)
    answered(client, job, {**ONE, "return": "0.92", "feed": "0.10"})
    split(client, job, piece="u2", place="plug")
    split(client, job, piece="u1", place="plug")
    names = [p["name"] for p in walk(client, job)["points"]]
    assert {"Plug, in", "Plug, out", "Plug 2, in", "Plug 2, out"} <= set(names)
    for wrong, field in (
        ({"piece": "u99"}, "piece"), ({"run": "fan"}, "run"), ({"place": "moon"}, "place"),
    ):  # fmt: skip
        answer = split(client, job, **wrong)
        assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)


def test_what_is_typed_means_something_at_once_and_is_not_kept(client: FlaskClient) -> None:
    job = checked(client)
    keep(client, job, "live", "back", "12.62")
    answered(client, job, {"current": "4.6"})
    across = {"red": "feed-terminal", "black": "return-terminal"}
    for typed, says, good in (
        ("12.3", "Within", True), ("11.0", "more than allowed", False), ("OL", "range", None),
    ):  # fmt: skip
        means = client.get(f"{job}/walk/means", query_string={**across, "typed": typed}).json
        assert says in means["says"]
        assert means["good"] is good
    wrong = client.get(f"{job}/walk/means", query_string={**across, "typed": "lots"})
    assert wrong.json["errors"][0]["field"] == "typed"
    nowhere = client.get(f"{job}/walk/card", query_string={"red": "moon", "black": "back"})
    assert nowhere.json["errors"][0]["field"] == "red"
    assert len(client.get(f"{job}/file").json["readings"]) == 2


def tried(client: FlaskClient, job: str, **more: Any) -> Any:
    stands = walk(client, job)
    body = {
        "id": uuid.uuid4().hex, "stage": "as_found", "scenario": stands["scenario"], "run": "load",
        "kind": "return", "start": "return-terminal", "end": "back", **more,
    }  # fmt: skip
    return client.post(f"{job}/walk/trials", json=body)


def test_a_temporary_return_proves_itself_before_it_is_fitted(client: FlaskClient) -> None:
    job = checked(client)
    answered(client, job, {"source": "12.62", "current": "4.6", "load": "11.60"})
    said = {"id": "trial-one-1", "outcome": "right", "volts": "12.41", "ohm": "12 m"}
    assert tried(client, job, **said).status_code == 200
    assert tried(client, job, **said).status_code == 200, "sent twice it is kept once"
    assert tried(client, job, **{**said, "outcome": "none"}).status_code == 409
    stands = walk(client, job)
    assert [t["says"] for t in stands["trials"]] == [
        "Temporary return from Sump pump \u2212 to Battery \u2212 post: works normally, 12.41 V at the load"
    ]
    assert stands["suspects"][0]["name"] == "Sump pump \u2212 to Battery \u2212 post"
    document = client.get(f"{job}/file").json
    assert document["trials"][0]["ohm"] == pytest.approx(0.012)
    tried(client, job, outcome="partly")
    metre_of_jumper = client.get(f"{job}/file").json["trials"][1]["ohm"]
    assert metre_of_jumper == pytest.approx(0.01), "where nobody measured the spare wire"
    assert document["trials"][0]["revision"] == document["revision"]
    again = client.post("/api/v1/jobs?how=copy", json=document)
    copied = f"/api/v1/jobs/{again.json['id']}"
    assert client.get(f"{copied}/file").json["trials"] == document["trials"]
    events = client.get(f"{job}/timeline").json["events"]
    assert any(e["says"].startswith("Tried: Temporary return") for e in events)


@pytest.mark.parametrize(
    ("more", "field"),
    [({}, "outcome"), ({"outcome": "right", "start": "moon"}, "red"), ({"volts": "lots"}, "volts"),
     ({"outcome": "right", "ohm": "900"}, "ohm"), ({"outcome": "right", "run": "fan"}, "run"),
     ({"outcome": "right", "end": "return-terminal"}, "black")],
)  # fmt: skip
def test_a_trial_that_is_wrong_keeps_nothing(
    client: FlaskClient, more: dict[str, Any], field: str
) -> None:
    job = checked(client)
    answer = tried(client, job, **more)
    assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)
    document = client.get(f"{job}/file").json
    assert not {"trials", "moments", "readings"} & document.keys()


def test_a_trial_as_found_says_nothing_of_what_was_left(client: FlaskClient) -> None:
    job = checked(client)
    answered(client, job, {"source": "12.62", "current": "4.6", "load": "11.60"})
    tried(client, job, outcome="right")
    view = {"run": "load"}
    change = {
        "stage": "as_found", "revision": walk(client, job)["revision"], "element": "u2",
        "edit": {"repair": "remade"}, "view": view,
    }  # fmt: skip
    assert client.post(f"{job}/changes", json=change).status_code == 200
    assert client.post(f"{job}/as-left", json={"view": view}).status_code == 200
    assert walk(client, job, stage="as_left")["trials"] == []
    assert len(walk(client, job, stage="as_found")["trials"]) == 1


def test_the_sweep_at_rest(client: FlaskClient) -> None:
    job = checked(client)
    split(client, job, piece="u1", place="fuse")
    swept = client.get(f"{job}/walk/at-rest").json
    assert [p["should"] for p in swept["points"]] == ["source voltage"] * 4
    for point, typed in zip(swept["points"], ("12.6", "12.6", "0.0", "0.0"), strict=True):
        kept = keep(client, job, point["point"]["id"], swept["parked"]["id"], typed,
                    states={"load": "off"})  # fmt: skip
        assert kept.status_code == 200, kept.json
    swept = client.get(f"{job}/walk/at-rest").json
    assert [p["good"] for p in swept["points"]] == [True, True, False, False]
    assert swept["says"] == ["Fuse is open."]
    back = client.get(f"{job}/walk/at-rest", query_string={"side": "return"}).json
    assert (back["parked"]["id"], [p["point"]["id"] for p in back["points"]]) == (
        "live", ["back", "return-terminal"],
    )  # fmt: skip
    assert [(p["should"], p["typed"]) for p in back["points"]] == [
        ("source voltage", "12.6"), ("source voltage", ""),
    ]  # fmt: skip
    assert walk(client, job)["verdict"] not in ("within", "over"), "of drops it tells nothing"


def test_other_ways_of_testing_are_kept_as_what_they_are(client: FlaskClient) -> None:
    job = checked(client)
    answered(client, job, {**ONE, "load": "12.30", "return": "0.08"})
    posts = ("return-terminal", "back")
    surface = keep(client, job, *posts, "61 °C", quantity="kelvin", beside="34 °C")
    assert surface.status_code == 200, surface.json
    ohms = keep(client, job, *posts, "0.7", quantity="ohms", leads="0.3")
    assert ohms.status_code == 200, ohms.json
    for hold, typed in (("least", "0.08"), ("most", "0.40")):
        kept = keep(client, job, *posts, typed, hold=hold, moved="u2")
        assert kept.status_code == 200, kept.json
    readings = client.get(f"{job}/file").json["readings"]
    assert readings[-4]["value"] == pytest.approx(27)
    assert readings[-4]["typed"] == "61 °C beside 34 °C"
    assert readings[-3]["leads_ohm"] == pytest.approx(0.3)
    assert readings[-1]["moved"] == "u2"
    says = [f["says"] for f in walk(client, job)["findings"]]
    assert any(
        s.startswith("Moving Sump pump \u2212 to Battery \u2212 post changed the reading")
        for s in says
    )
    for more, field in (
        ({"quantity": "ohms", "leads": "40"}, "leads"), ({"moved": "w9"}, "moved"),
        ({"quantity": "kelvin", "beside": "cold"}, "beside"),
    ):  # fmt: skip
        wrong = keep(client, job, *posts, "0.5", **more)
        assert (wrong.status_code, wrong.json["errors"][0]["field"]) == (422, field)


def test_ohms_with_the_power_off_screen_and_never_pass(client: FlaskClient) -> None:
    job = checked(client)
    for pair in (("live", "feed-terminal"), ("return-terminal", "back")):
        assert keep(client, job, *pair, "0.3", quantity="ohms", leads="0.3").status_code == 200
    assert walk(client, job)["verdict"] == "not_measured"


def test_a_test_lamp_and_a_load_on_the_bench_stand_beside_the_drops(client: FlaskClient) -> None:
    job = checked(client, name="Bilge pump")
    out = {"states": {"load": "unplugged"}}
    posts = ("return-terminal", "back")
    assert keep(client, job, *posts, "Bright", quantity="lamp", **out).status_code == 200
    ends = ("feed-terminal", "return-terminal")
    bench = keep(client, job, *ends, "0.4", quantity="amperes", source="12.2", **out)
    assert bench.status_code == 200, bench.json
    stands = walk(client, job)
    assert [b["says"].partition(" \u00b1")[0] for b in stands["beside"]] == [
        "Test lamp lit, Bilge pump \u2212 to Battery \u2212 post", "Bilge pump on the bench: 0.40 A",
    ]  # fmt: skip
    assert any(f["says"].startswith("On the bench Bilge pump draws") for f in stands["findings"])
    assert [card["id"] for card in stands["done"]] == [], "neither is a step of the walk"
    wrong = keep(client, job, *posts, "12.2", quantity="lamp")
    assert wrong.json["errors"] == [
        {
            "field": "typed",
            "problem": "does not say how the lamp burns",
            "accepted": "lit, dim or dark",
        }
    ]
    document = client.get(f"{job}/file").json
    first = document["readings"][0]
    assert (first["quantity"], first["state"]) == ("lamp", "lit")
    again = client.post("/api/v1/jobs?how=copy", json=document)
    assert again.status_code == 201, again.json
    taken = {k: stands["beside"][0][k] for k in ("quantity", "red", "black")}
    back = keep(client, job, typed="", supersedes=stands["beside"][0]["reading"], **taken)
    assert back.status_code == 200, back.json
    assert len(walk(client, job)["beside"]) == 1
    events = [e["says"] for e in client.get(f"{job}/timeline").json["events"]]
    assert any("1 place with a test lamp" in says for says in events)


def test_a_point_of_ones_own_stands_in_for_the_post(client: FlaskClient) -> None:
    job = checked(client)
    stands = walk(client, job)
    body = {"stage": "as_found", "revision": stands["revision"], "name": "Engine block"}
    made = client.post(f"{job}/walk/points", json=body)
    assert made.status_code == 200, made.json
    (block,) = made.json["points"]
    assert "Engine block" in [p["name"] for p in walk(client, job)["loop"]["others"]]
    again = {**body, "revision": walk(client, job)["revision"]}
    twice = client.post(f"{job}/walk/points", json=again)
    assert twice.json["errors"][0]["field"] == "name"
    answered(client, job, {"current": "4.6"})
    keep(client, job, "return-terminal", block, "0.85")
    keep(client, job, block, "back", "0.04")
    stands = walk(client, job)
    assert stands["verdict"] == "over"
    assert "return is over its limit" in stands["verdict_says"]


def test_what_was_seen_is_kept_with_its_moment(client: FlaskClient) -> None:
    job = checked(client)
    assert note(client, job, "load", "seen", "seen", "green under the sleeve").status_code == 200
    assert note(client, job, "load", "seen", "seen", " ").status_code == 422
    (seen,) = walk(client, job)["seen"]
    assert seen["says"] == "green under the sleeve"
    events = [e["says"] for e in client.get(f"{job}/timeline").json["events"]]
    assert "Sump pump: seen or heard: green under the sleeve." in events
    document = client.get(f"{job}/file").json
    assert client.post("/api/v1/jobs?how=copy", json=document).status_code == 201
    assert note(client, job, "load", f"seen {seen['id']}", "back").status_code == 200
    assert walk(client, job)["seen"] == []
    last = [e["says"] for e in client.get(f"{job}/timeline").json["events"]]
    assert "Sump pump: taken back or up again: what was seen or heard." in last


def test_the_stand_in_says_which_lead_to_move_next(client: FlaskClient) -> None:
    job = checked(client)

    def asked() -> str:
        return str(client.get(f"{job}/walk/stand-in").json["next"])

    assert asked().startswith("First with both leads in the connector")
    for place, then in (("connector", "return lead"), ("return_moved", "feed lead"),
                        ("feed_moved", "in turn")):  # fmt: skip
        stood_in(client, job, "load", place=place, volts="0", amps="1.75")
        assert then in asked()
    assert not any(b["enough"] for b in client.get(f"{job}/walk/stand-in").json["bulbs"])


def test_a_charging_path_is_a_run_of_its_own_inside_the_craft(client: FlaskClient) -> None:
    job = checked(client)
    body = {"stage": "as_found", "revision": walk(client, job)["revision"], "kind": "generator"}
    made = client.post(f"{job}/sources", json={**body, "name": "Generator"})
    assert made.status_code == 200, made.json
    run = made.json["made"]
    scenario = next(s["id"] for s in client.get(f"{job}/file").json["scenarios"] if run in s["on"])
    stands = walk(client, job, run=run, scenario=scenario)
    assert stands["moment"]["asks_rpm"]
    assert stands["now"]["id"] == "current"
    card = client.get(
        f"{job}/walk/card",
        query_string={"run": run, "scenario": scenario, "red": "live", "black": "back"},
    ).json
    assert "2000 rpm" in card["on"]
    more = {"scenario": scenario, "rpm": "2000"}
    for red, black, typed, quantity in (
        ("p1", "p2", "14.30", "volts"), ("live", "back", "31", "amperes"),
        ("live", "back", "13.70", "volts"), ("back", "p2", "0.05", "volts"),
        ("p1", "live", "0.55", "volts"),
        ("p1", "p2", "0.2", "ripple"),
    ):  # fmt: skip
        kept = keep(client, job, red, black, typed, quantity=quantity, **more)
        assert kept.status_code == 200, kept.json
    stands = walk(client, job, run=run, scenario=scenario)
    assert stands["verdict"] == "over"
    assert "feed is over its limit" in stands["verdict_says"]
    document = client.get(f"{job}/file").json
    assert document["moments"][0]["rpm"] == 2000
    again = client.post("/api/v1/jobs?how=copy", json=document)
    assert again.status_code == 201, again.json
    body["revision"] = walk(client, job)["revision"]
    for wrong, field in (({"name": "generator"}, "name"), ({"name": "Sun", "volts": "3"}, "volts")):
        answer = client.post(f"{job}/sources", json={**body, **wrong})
        assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)
    speed = keep(client, job, "p1", "p2", "14.3", scenario=scenario, rpm="fast")
    assert speed.json["errors"][0]["field"] == "rpm"


def test_a_relay_is_read_at_its_socket(client: FlaskClient) -> None:
    job = checked(client)
    assert walk(client, job)["socket"] == []
    answered(client, job, ONE)
    thirty, eighty_seven = split(client, job, place="relay").json["points"]
    socket = {h["hole"]: h for h in walk(client, job)["socket"]}
    assert (socket["30"]["point"], socket["87"]["point"]) == (thirty, eighty_seven)
    assert socket["30"]["out"].startswith("source voltage")
    assert socket["85"]["point"] is None
    joined = tried(client, job, kind="bridge", start=thirty, end=eighty_seven, outcome="right")
    assert joined.status_code == 200
    assert walk(client, job)["suspects"][0]["name"] == "Relay contact"


def with_a_switch(client: FlaskClient) -> tuple[str, str, str, str]:
    """A job whose feed has a switch: its address, the switch, the points on both sides of it."""
    job = checked(client)
    made = split(client, job, place="switch")
    assert made.status_code == 200, made.json
    inside, outside = made.json["points"]
    moment = walk(client, job)["moment"]
    (contact,) = moment["contacts"]
    assert (contact["kind"], contact["state"]) == ("switch", "closed")
    return job, contact["id"], inside, outside


def test_off_by_its_switch_is_no_open(client: FlaskClient) -> None:
    job, switch, inside, outside = with_a_switch(client)
    off = {"states": {"load": "off"}, "contacts": {switch: "open"}}
    for red, typed in (("live", "12.6"), (inside, "12.6"), (outside, "0.0")):
        assert keep(client, job, red, "back", typed, **off).status_code == 200
    assert walk(client, job)["verdict"] == "not_measured"
    at_rest = client.get(f"{job}/walk/at-rest", query_string={"run": "load", "contact": switch})
    assert at_rest.json["says"] == []
    points = {p["point"]["id"]: p for p in at_rest.json["points"]}
    assert [points[p]["good"] for p in ("live", inside, outside)] == [True, True, True]
    document = client.get(f"{job}/file").json
    assert document["moments"][0]["contacts"] == {switch: "open"}
    again = client.post("/api/v1/jobs?how=copy", json=document)
    assert again.status_code == 201, again.json
    copied = client.get(f"/api/v1/jobs/{again.json['id']}/file").json
    assert copied["moments"][0]["contacts"] == {switch: "open"}


def test_the_same_with_the_switch_closed_is_open_there(client: FlaskClient) -> None:
    job, switch, inside, outside = with_a_switch(client)
    off = {"states": {"load": "off"}, "contacts": {switch: "closed"}}
    for red, typed in (("live", "12.6"), (inside, "12.6"), (outside, "0.0")):
        assert keep(client, job, red, "back", typed, **off).status_code == 200
    stands = walk(client, job)
    assert stands["verdict"] == "open"
    assert "is open" in stands["verdict_says"]


def test_a_contact_that_is_not_there_is_refused(client: FlaskClient) -> None:
    job, *_ = with_a_switch(client)
    for wrong in ({"u1": "open"}, {"moon": "closed"}):
        answer = keep(client, job, "live", "back", "12.6", contacts=wrong)
        assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, "contacts")
    answer = client.get(f"{job}/walk/at-rest", query_string={"run": "load", "contact": "moon"})
    assert answer.json["errors"][0]["field"] == "contact"
    document = client.get(f"{job}/file").json
    document["moments"] = [{"id": "m", "scenario": "now", "contacts": {"moon": "open"}}]
    document["moments"][0]["scenario"] = document["scenarios"][0]["id"]
    refused = client.post("/api/v1/jobs?how=copy", json=document)
    assert refused.status_code == 422
    assert "moments[0].contacts.moon" in refused.get_data(as_text=True)


def found_in_the_return(client: FlaskClient) -> str:
    """A job in which a joint of the return was found; of the feed nothing was drawn or read."""
    job = checked(client)
    answered(client, job, {"current": "3.1", "return": "1.9"})
    assert split(client, job, place="ring").status_code == 200
    card = walk(client, job)["now"]
    assert keep(client, job, card["red"]["id"], card["black"]["id"], "1.7").status_code == 200
    return job


def whole_bench(client: FlaskClient, job: str) -> Any:
    """The bench of its load once every candidate is worked out."""
    while True:
        bench = client.get(f"{job}/upgrade", query_string={"run": "load"}).json
        if bench["done"]:
            return bench


def test_a_side_that_nobody_read_is_not_vouched_for_by_a_repair_of_the_other(
    client: FlaskClient,
) -> None:
    job = found_in_the_return(client)
    bench = whole_bench(client, job)
    best = next(c for c in bench["candidates"] if c["id"] == bench["best"])
    assert bench["spare_v"] < 0, "what the return is short of is known"
    assert best["unread"]
    assert (best["spare_v"], best["load_v"], best["lost_v"], best["scenarios"]) == (
        None, None, None, [],
    )  # fmt: skip
    assert [b["after_v"] is None for b in best["bars"]] == [True, False]
    assert "the feed is neither drawn in full nor read" in best["short"]
    assert "takes away what was found" in bench["recommended"]
    (repair,) = client.get(f"{job}/run-by-run").json["repairs"]
    assert (repair["before_v"] < 0, repair["after_v"]) == (True, None)
    (as_is,) = client.get(f"{job}/sizing").json["ways"]
    assert (as_is["id"], as_is["over"]) == ("as_is", 1)
    body = {"run": "load", "candidate": bench["best"], "revision": bench["revision"]}
    assert client.post(f"{job}/upgrade/take", json=body).status_code == 200
    order = client.get(f"{job}/order", query_string={"run": "load"}).json
    expected = {r["what"]: r["expected"] for r in order["readings"]}
    assert expected["The whole feed"] == expected["The whole loop, across Sump pump"] == "\u2013"
    assert expected["The whole return"].endswith(" V")


def test_the_sheet_of_a_half_read_run_tells_what_is_read_and_no_more(client: FlaskClient) -> None:
    job = found_in_the_return(client)
    run = client.get(f"{job}/sheet").json["run"]
    assert (run["verdict"], run["load_v"], run["spare_under"]) == ("over", None, "return")
    told = ("feed_v", "load_v", "return_v", "unaccounted_v")
    assert [run["predicted"][key] for key in told] == [None] * 4
    assert run["found"]["foot"]["return_v"] == pytest.approx(1.9)
    assert run["measured"]["scenarios"] == [], (
        "what the load gets is not known: it does not drop out"
    )
    assert [line["about"] for line in run["working"]] == ["return", "round_trip"]
    bench = whole_bench(client, job)
    body = {"run": "load", "candidate": bench["best"], "revision": bench["revision"]}
    assert client.post(f"{job}/upgrade/take", json=body).status_code == 200
    plan = client.get(f"{job}/sheet", query_string={"stage": "planned"}).json
    assert (plan["run"]["verdict"], plan["run"]["spare_v"]) == ("not_measured", None)
    assert "the feed is neither drawn in full nor read" in plan["run"]["verdict_says"]
    assert plan["run"]["measured"]["scenarios"] == []
    assert [(r["verdict"], r["spare_v"]) for r in plan["runs"]] == [("not_measured", None)]


def test_a_side_that_only_the_source_bounds_is_not_known(client: FlaskClient) -> None:
    job = found_in_the_return(client)
    keep(client, job, "live", "back", "12.62")
    bench = whole_bench(client, job)
    assert next(c for c in bench["candidates"] if c["id"] == bench["best"])["unread"]


def test_nothing_is_recommended_while_a_side_is_not_known_and_the_other_is_good(
    client: FlaskClient,
) -> None:
    job = checked(client)
    answered(client, job, {"current": "3.1", "return": "0.09"})
    bench = whole_bench(client, job)
    assert (bench["spare_v"], bench["best"]) == (None, None)
    assert client.get(f"{job}/run-by-run").json["unknown"] == ["Sump pump"]
    assert client.get(f"{job}/sizing").json["ways"] == []
