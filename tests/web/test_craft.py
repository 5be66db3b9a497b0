"""The craft as a whole, limits side by side, what-ifs and the source check through the API."""

import itertools

import pytest
from flask.testing import FlaskClient

from tests.web.test_api import MARRAM, sheet
from tests.web.test_drawing import FAN, PUMP, act, craft, drawn, fresh
from tests.web.test_upgrade import sized


def test_the_workings_of_the_craft_come_to_what_is_shown(demo: FlaskClient) -> None:
    seen = craft(demo, MARRAM)
    for run in seen["runs"]:
        line = next(x for x in run["working"] if x["about"] == run["under"])
        assert line["result"].split(" V")[0] == f"{run['spare_v']:.3f}".replace("-", "\u2212")
    for part in seen["stretches"]:
        drops = [x for x in part["working"] if x["about"] == "drop"]
        told = sum(float(x["result"].removesuffix(" V")) for x in drops)
        assert told == pytest.approx(part["drop_v"], abs=0.0006 * len(drops))
    for gain in seen["helps"]:
        assert gain["working"][0]["result"] == f"{gain['gain_v']:.3f} V"
    kilos = [x["working"][0]["result"] for x in seen["copper"] if x["mass_kg"] is not None]
    assert kilos == [f"{x['mass_kg']:.2f} kg" for x in seen["copper"] if x["mass_kg"] is not None]


def test_runs_stand_by_least_spare_in_their_worst_scenario(demo: FlaskClient) -> None:
    seen = craft(demo, MARRAM)
    spares = [r["spare_v"] for r in seen["runs"]]
    assert spares == sorted(spares)
    for run in seen["runs"]:
        shown = sheet(demo, scenario=run["worst"], run=run["id"], stage=seen["stage"])
        predicted = min(s["spare_v"] for s in shown["run"]["sides"])
        assert run["spare_v"] == pytest.approx(predicted)
        found = demo.get(f"{MARRAM}/worst", query_string={"run": run["id"]}).json
        assert (found["scenario"], found["name"]) == (run["worst"], run["worst_name"])
    assert {r["id"] for r in seen["runs"]} == set(seen["order"])
    assert sum(c["mass_kg"] for c in seen["copper"]) > 0
    assert seen["helps"][0]["gain_v"] > 0


def test_every_run_passes_its_own_stretches(demo: FlaskClient) -> None:
    seen = craft(demo, MARRAM, scenario="evening")
    for key in seen["order"]:
        feed = [s for s in seen["stretches"] if s["side"] == "feed" and key in s["loads"]]
        for near, far in itertools.pairwise(feed):
            assert far["before_v"] == pytest.approx(near["before_v"] + near["drop_v"])


def test_joints_of_both_sides_may_eat_a_round_trip(client: FlaskClient) -> None:
    job = fresh(client)
    client.post(f"{job}/details", json={"limit_set": "percent"})
    drawn(client, job, 'fuse 100 > 16 mm2 2 m > pin > load "Winch" 90 A > pin > 16 mm2 2 m > ring')
    for side in sheet(client, job)["run"]["sides"]:
        assert "Nothing is left for the wire" in side["eaten"]
        assert "Fuse 100 A" in side["eaten"]
        assert side["eaten"].count("Pin") == 2


def test_a_trunk_of_many_loads_names_the_largest(client: FlaskClient) -> None:
    job = fresh(client)
    for i in range(9):
        start = "isolator > 16 mm2 3 m [Panel]" if i == 0 else "[Panel]"
        end = "ring [Bus] > 16 mm2 3 m" if i == 0 else "[Bus]"
        drawn(
            client,
            job,
            f'{start} > fuse 5 > 1 mm2 2 m > load "Fan {i}" {1 + i} A > 1 mm2 2 m > {end}',
        )
    shown = sheet(client, job)
    column = next(c for c in shown["run"]["columns"] if c["kind"] == "switch")
    current = next(x for x in column["working"] if x["about"] == "current")
    assert current["formula"].endswith("5.00 A Fan 4 + 10.0 A of 4 more")


def test_one_run_under_every_school(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    answer = client.get(f"{job}/limit-sets", query_string={"run": "bilge-pump"}).json
    seen = {s["id"]: s for s in answer["sets"]}
    assert set(seen) == {"by-duty", "half-volt", "tight-side", "percent", "load-share"}
    assert seen["by-duty"]["in_use"]
    assert all(s["why"] and s["working"] for s in seen.values())
    lost = answer["feed_v"] + answer["return_v"]
    assert seen["percent"]["spare_v"] == pytest.approx(0.36 - lost), "3 %: it critical"
    assert seen["load-share"]["spare_v"] == pytest.approx(0.5 - lost)
    least = min(0.5 - answer["feed_v"], 0.5 - answer["return_v"])
    assert seen["half-volt"]["spare_v"] == pytest.approx(least)
    assert next(s["id"] for s in answer["sets"]) == min(seen, key=lambda k: seen[k]["spare_v"])
    assert client.get(f"{job}/limit-sets", query_string={"run": "x"}).status_code == 422


def test_what_small_changes_would_do(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    wire = next(c for c in sheet(client, job)["run"]["columns"] if c["spec"].startswith("2.5"))
    rows = client.get(f"{job}/what-if", query_string={"piece": wire["id"]}).json["rows"]
    more = {r["what"]: r["load_more_v"] for r in rows}
    assert more["one size up"] > 0 > more["one size down"]
    assert more["one more joint"] == pytest.approx(-4.6 * (0.0005 * 0.001) ** 0.5, rel=0.01)
    assert more["+10\u00a0\u00b0C"] < 0
    whole = client.get(f"{job}/what-if").json["rows"]
    assert next(r["what"] for r in whole) == "all its wires a size up"
    pin = next(c for c in sheet(client, job)["run"]["columns"] if c["name"] == "Pin")
    rows = client.get(f"{job}/what-if", query_string={"piece": pin["id"]}).json["rows"]
    aged = next(r for r in rows if r["what"] == "aged to its limit")
    assert aged["load_more_v"] == pytest.approx(-4.6 * (0.01 - (0.002 * 0.005) ** 0.5), rel=0.01)


def test_a_load_that_stalls_says_what_would_allow_it(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, '0.5 mm2 20 m > converter "Cold box" 90 W > 0.5 mm2 20 m')
    seen = craft(client, job)["runs"][0]
    assert (seen["verdict"], seen["spare_v"]) == ("over", None)
    assert "is the most that would work" in seen["says"]
    assert "is the most that would work" in sheet(client, job)["trouble"]


def test_a_load_that_drops_out_is_told(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP.replace("least 10.5 V", "least 11.9 V"))
    drawn(client, job, FAN.replace("0.8 A", "0.8 A least 12.6 V"))
    seen = craft(client, job, scenario="rested")
    says = {r["id"]: r["says"] for r in seen["runs"]}
    assert says["bilge-pump"].startswith(
        "In \u201cEngine start in progress\u201d, Bilge pump drops out"
    )
    assert sheet(client, job, run="bilge-pump", scenario="rested")["run"]["load"][
        "works"
    ].startswith("In \u201cRested\u201d, Bilge pump works")
    gone = [s for s in seen["starts"] if s["drops_out"]]
    assert any("While Bilge pump starts, Cabin fan gets" in s["says"] for s in gone)


def test_the_source_check(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    first = client.get(f"{job}/source-check").json
    assert (first["state"], first["findings"]) == ("unknown", [])
    form = {"resting": "12.75", "loaded": "12.5", "current": "25 A", "loaded_clamps": "12,48",
            "temperature": "50 \u00b0F", "charging": "14.3"}  # fmt: skip
    body = {"source": "source", "battery": "agm", "form": form}
    seen = client.post(f"{job}/source-check", json=body).json
    assert seen["state"] == "good"
    assert seen["internal_ohm"] == pytest.approx(0.01)
    assert seen["clamps_ohm"] == pytest.approx(0.0008)
    assert seen["form"]["temperature"] == "10 \u00b0C"
    assert seen["least_v"] == pytest.approx(9.4)
    # Offered to the model, which then uses it.
    given = {"source": "source", "internal": "10 m\u03a9"}
    assert client.post(f"{job}/source-model", json=given).json["model_ohm"] == pytest.approx(0.01)
    assert sheet(client, job)["run"]["source"]["internal_ohm"] == pytest.approx(0.01)
    again = client.post(f"{job}/source-check", json={**body, "battery": "flooded"}).json
    assert (again["battery"], again["state"]) == ("flooded", "good")
    for field, text in (("resting", "full"), ("current", "0"), ("temperature", "400")):
        wrong = client.post(f"{job}/source-check", json={**body, "form": {**form, field: text}})
        assert (wrong.status_code, wrong.json["errors"][0]["field"]) == (422, field)
    assert client.get(f"{job}/source-check").json["form"]["resting"] == "12.75 V"
    copied = client.get(f"{job}/file").json
    assert copied["source_checks"] == {
        "source": {"resting_v": 12.75, "loaded_v": 12.5, "loaded_a": 25.0, "loaded_clamps_v": 12.48,
                   "temperature_c": pytest.approx(10.0), "charging_v": 14.3}
    }  # fmt: skip
    back = client.post("/api/v1/jobs", json=copied)
    assert back.status_code == 201, back.json


def test_shared_pieces_carry_the_sum(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    for i in range(4):
        drawn(client, job, FAN.replace("Cabin fan", f"Fan {i}"))
    seen = craft(client, job)
    assert len(seen["runs"]) == 5
    main = next(s for s in seen["stretches"] if s["side"] == "feed" and len(s["loads"]) == 5)
    assert main["current_a"] == pytest.approx(4.6 + 4 * 0.8)
    assert act(client, job, "runs", run="fan-2", action="remove").status_code == 200


STARTER = '35 mm2 2 m > load "Starter" 200 A short-time > 35 mm2 2 m > ring [Bus] > 35 mm2 1 m'
PLOTTER = 'fuse 5 > 1.5 mm2 3 m > load "Plotter" 2 A critical{} > 1.5 mm2 3 m > [Bus]'


@pytest.mark.parametrize(
    ("least", "verdict", "says"),
    [
        (" least 9 V", "within", "Calculated: it gets 11.77 V while the engine starts"),
        (" least 11.8 V", "over", "it gets too little voltage while the engine starts."),
        ("", "not_measured", "No limit holds meanwhile; say the lowest voltage it works at."),
    ],
)
def test_in_an_engines_start_least_volts_are_asked_and_no_limit(
    client: FlaskClient, least: str, verdict: str, says: str
) -> None:
    job = fresh(client)
    drawn(client, job, STARTER)
    drawn(client, job, PLOTTER.format(least))
    shown = sheet(client, job, run="plotter", scenario="start")["run"]
    assert (shown["verdict"], shown["spare_v"]) == (verdict, None)
    assert says in shown["verdict_says"]
    assert [side["ceiling_v"] for side in shown["sides"]] == [None, None]
    sets = client.get(
        f"{job}/limit-sets", query_string={"run": "plotter", "scenario": "start"}
    ).json["sets"]
    assert {s["verdict"] for s in sets} == {"not_measured"}
    worst = client.get(f"{job}/worst", query_string={"run": "plotter"}).json
    assert worst["scenario"] != "start"
    (row,) = [r for r in craft(client, job)["runs"] if r["id"] == "plotter"]
    assert row["spare_v"] > 0


UNDRAWN = '? > switch > 2.5 mm2 3 m > ? > motor "Deck wash" 5 A x4 > ? > ring > ?'
RADIO = 'fuse 10 > 2.5 mm2 4 m > load "Radio" 6 A > 2.5 mm2 4 m > ring'


def test_of_a_run_that_is_not_known_no_figure_is_told_anywhere(client: FlaskClient) -> None:
    """Part of it is not drawn: no spare, no verdict, no option and no tick rests on a typical guess."""
    job = fresh(client)
    drawn(client, job, UNDRAWN)
    drawn(client, job, RADIO)
    wash = {"run": "deck-wash"}
    seen = craft(client, job)
    told = {
        r["id"]: (r["spare_v"] is None, r["load_v"] is None, r["verdict"], bool(r["working"]))
        for r in seen["runs"]
    }
    assert told == {
        "deck-wash": (True, True, "not_measured", False), "radio": (False, False, "within", True),
    }  # fmt: skip
    for part in seen["stretches"]:
        assert (part["drop_v"] is None) == ("Unknown section" in part["name"])
        assert all("Unknown" not in line["label"] for line in part["working"])
    assert seen["starts"] == []
    under = client.get(f"{job}/limit-sets", query_string=wash).json
    assert (under["feed_v"], under["return_v"]) == (None, None)
    for each in under["sets"]:
        assert (each["spare_v"], each["amperes"], each["metres"]) == (None, None, None)
        assert (each["verdict"], each["over"], each["working"]) == ("not_measured", [], [])
    assert client.get(f"{job}/what-if", query_string=wash).json == {"rows": []}
    assert client.get(f"{job}/worst", query_string=wash).json["spare_v"] is None
    bench = client.get(f"{job}/upgrade", query_string=wash).json
    assert (bench["spare_v"], bench["candidates"], bench["recommended"]) == (None, [], "")
    assert bench["refused"] == [
        "Nothing is offered yet: part of this run, or its load, is not known. Draw it, or measure the run."
    ]
    (as_is,) = client.get(f"{job}/sizing").json["ways"]
    assert (as_is["runs"], as_is["over"], as_is["unknown"]) == (1, 0, ["Deck wash"])
    assert as_is["load"] == "Radio"
    steps = client.get(f"{job}/run-by-run").json
    assert (steps["done"], steps["repairs"], steps["unknown"]) == (True, [], ["Deck wash"])
    file = client.get(f"{job}/file").json
    runs = client.post("/api/v1/jobs/preview", json=file).json["runs"]
    assert [(r["name"], r["spare_v"] is None) for r in runs] == [
        ("Deck wash", True),
        ("Radio", False),
    ]


def test_a_run_that_is_not_known_is_not_sized(client: FlaskClient) -> None:
    """Its wires stay as they are, thin or thick, drawn with a size or without; the others are sized."""
    job = fresh(client)
    drawn(client, job, UNDRAWN)
    drawn(client, job, '? > 2 m > load "Hold lamp" 2 A > 2 m > ring')
    drawn(client, job, RADIO)
    made = sized(client, job)
    assert made["state"] == "done"
    assert (
        "Not sized: Deck wash, Hold lamp. Part of the run, or its load, is not known."
        in made["more"]
    )
    after = {(w["runs"], w["after"]) for w in made["wires"]}
    assert {("Deck wash", "2.5\u00a0mm\u00b2"), ("Hold lamp", "to be sized")} <= after
    assert ("Radio", "1.5\u00a0mm\u00b2") in after
    assert all(not w["because"] for w in made["wires"] if w["runs"] != "Radio")


def test_a_run_that_was_read_says_so_beside_what_is_drawn(demo: FlaskClient) -> None:
    shown = demo.get("/api/v1/jobs/demo-1-sloop-marram/craft?stage=as_found").json
    read = {r["name"]: (r["verdict"], r["read"]) for r in shown["runs"]}
    assert read["Tap pump"] == ("within", "over")
    assert read["Cold box"] == ("within", None)
