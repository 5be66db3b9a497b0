"""The local network's door: who is let in, how wrong tries are met, what other pages may not do."""

from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as st
from itsdangerous import URLSafeSerializer
from werkzeug.test import TestResponse

from spare_margin.service.access import pairing, passphrase
from spare_margin.service.access.codes import LASTS_S, Codes
from spare_margin.service.access.tries import REFUSED_S, Tries
from spare_margin.store.file.database import connect, transaction
from spare_margin.web.access.guard import COOKIE, REMOVED
from spare_margin.web.access.network import DOOR, LAN, NetworkState, NetworkTrouble

HOST = "192.168.7.20:8766"
OWN = {"Origin": f"http://{HOST}"}
PHRASE = "grunt width try spruce"
NAMED = {"name": "the phone in the van", "person": "Ida Brandt"}
MARRAM = "/api/v1/jobs/demo-1-sloop-marram"


class Door:
    """A door that only says it is open."""

    def __init__(self) -> None:
        self.is_open = True
        self.trouble = ""

    def state(self) -> NetworkState:
        hosts = frozenset({HOST, "ketch.local:8766"})
        return NetworkState(self.is_open, (f"http://{HOST}/",), hosts)

    def open(self) -> None:
        if self.trouble:
            raise NetworkTrouble(self.trouble)
        self.is_open = True

    def close(self) -> None:
        self.is_open = False


Phone = Callable[..., TestResponse]


@pytest.fixture
def app(demo: FlaskClient) -> Flask:
    demo.application.extensions["network"] = Door()
    return demo.application


@pytest.fixture
def moment(monkeypatch: pytest.MonkeyPatch) -> list[float]:
    held = [1000.0]
    monkeypatch.setattr("spare_margin.web.access.routes.time.monotonic", lambda: held[0])
    return held


@pytest.fixture
def stranger(app: Flask) -> Iterator[FlaskClient]:
    """A browser on the network that nobody paired yet."""
    with app.test_client() as client:
        yield client


def ask(client: FlaskClient, path: str, body: Any = None, **more: Any) -> TestResponse:
    """A request over the network, as the program's own page makes it."""
    said: dict[str, Any] = {
        "environ_overrides": {DOOR: LAN, "REMOTE_ADDR": more.pop("address", "192.168.7.44")},
        "base_url": f"http://{HOST}",
        "headers": OWN,
        **more,
    }
    if body is None:
        return client.get(path, **said)
    return client.post(path, json=body, **said)


def code_of(demo: FlaskClient) -> str:
    made = demo.post("/api/v1/access/codes", json={})
    assert made.status_code == 200
    return str(made.json["code"])  # type: ignore[index]


def paired(demo: FlaskClient, client: FlaskClient, **more: Any) -> TestResponse:
    return ask(client, "/api/v1/access/pair", {"code": code_of(demo), **NAMED, **more})


def test_a_stranger_sees_the_door_and_nothing_behind_it(stranger: FlaskClient) -> None:
    assert ask(stranger, "/").status_code in (200, 503)
    said = ask(stranger, "/api/v1/access").json
    assert said == {"door": "network", "paired": False, "device": "", "person": "", "ends_at": None}
    for path in ("/api/v1/jobs", f"{MARRAM}/sheet", "/api/v1/settings", "/api/v1/openapi.json"):
        answer = ask(stranger, path)
        assert answer.status_code == 401
        assert answer.json is not None
        assert answer.json["title"] == "Not paired"
    assert ask(stranger, f"{MARRAM}/put-away", {}).status_code == 401


def test_a_code_pairs_one_device(demo: FlaskClient, app: Flask, stranger: FlaskClient) -> None:
    made = demo.post("/api/v1/access/codes", json={}).json
    assert made is not None
    assert made["url"] == f"http://{HOST}/pair#{made['code'].replace('-', '')}"
    assert made["picture"].startswith("<svg")
    assert made["lasts_s"] == 600
    code = made["code"].lower()
    answer = ask(stranger, "/api/v1/access/pair", {"code": code, **NAMED})
    assert answer.status_code == 200
    assert answer.json is not None
    assert answer.json["paired"] is True
    cookie = answer.headers["Set-Cookie"]
    for part in ("HttpOnly", "SameSite=Strict", f"Max-Age={90 * 86400}", "Path=/"):
        assert part in cookie
    assert "Secure" not in cookie, "this door is without TLS"
    assert ask(stranger, "/api/v1/jobs").status_code == 200
    second = app.test_client()
    assert ask(second, "/api/v1/access/pair", {"code": code, **NAMED}).status_code == 403
    assert ask(second, "/api/v1/jobs").status_code == 401


def test_over_tls_the_cookie_stays_on_tls(demo: FlaskClient, stranger: FlaskClient) -> None:
    more = {"base_url": f"https://{HOST}", "headers": {"Origin": f"https://{HOST}"}}
    body = {"code": code_of(demo), **NAMED}
    answer = ask(stranger, "/api/v1/access/pair", body, **more)
    assert "Secure" in answer.headers["Set-Cookie"]


def test_the_passphrase_pairs_too(demo: FlaskClient, stranger: FlaskClient) -> None:
    wrong = {"passphrase": PHRASE, **NAMED}
    assert ask(stranger, "/api/v1/access/pair", wrong).status_code == 403, "there is none yet"
    made = demo.post("/api/v1/access/passphrase", json={"passphrase": PHRASE.upper()})
    assert made.json == {"passphrase": PHRASE}
    said = {"passphrase": " Grunt  width try SPRUCE", **NAMED}
    assert ask(stranger, "/api/v1/access/pair", said).status_code == 200


def test_only_a_hash_of_it_is_kept(demo: FlaskClient, app: Flask) -> None:
    said = demo.post("/api/v1/access/passphrase", json={}).json
    assert said is not None
    words = said["passphrase"].split()
    assert len(words) == 4
    kept = app.config["DATABASE"].read_bytes()
    log = app.config["DATABASE"].with_name(app.config["DATABASE"].name + "-wal")
    kept += log.read_bytes() if log.exists() else b""
    assert said["passphrase"].encode() not in kept
    connection = connect(app.config["DATABASE"])
    key = connection.execute("SELECT value FROM secret WHERE key = 'passphrase'").fetchone()[0]
    assert key.startswith("scrypt:32768:8:1$"), "32 MB a try"
    assert passphrase.is_right(connection, said["passphrase"])
    assert not passphrase.is_right(connection, " ".join(reversed(words)))
    connection.close()
    for bad in ("short", "aaaaaaaaaaaaaaaa", "x" * 201, "            "):
        answer = demo.post("/api/v1/access/passphrase", json={"passphrase": bad})
        assert answer.status_code == 422


def test_wrong_tries_are_slowed_and_then_refused(
    demo: FlaskClient, app: Flask, moment: list[float]
) -> None:
    demo.post("/api/v1/access/passphrase", json={"passphrase": PHRASE})

    def attempt(said: str, address: str = "192.168.7.66") -> TestResponse:
        body = {"passphrase": said, **NAMED}
        return ask(app.test_client(), "/api/v1/access/pair", body, address=address)

    assert [attempt("not that one").status_code for _ in range(3)] == [403, 403, 403]
    slowed = attempt("not that one")
    assert (slowed.status_code, slowed.headers["Retry-After"]) == (429, "3")
    assert attempt(PHRASE).status_code == 429, "not even the right one, until the wait is over"
    assert attempt(PHRASE, "192.168.7.67").status_code == 200, "others are not held up"
    for _ in range(7):
        moment[0] += 300
        assert attempt("not that one").status_code == 429
    refused = attempt(PHRASE)
    assert refused.status_code == 429
    assert "15 minutes" in refused.json["detail"]  # type: ignore[index]
    moment[0] += REFUSED_S + 1
    assert attempt(PHRASE).status_code == 200


def test_who_holds_a_code_comes_in_whoever_guesses(
    demo: FlaskClient, app: Flask, moment: list[float]
) -> None:
    """Sixty-two wrong tries from twenty addresses: a passphrase is refused for a while, a code is not."""
    demo.post("/api/v1/access/passphrase", json={"passphrase": PHRASE})

    def attempt(address: str, **said: str) -> int:
        body = {**said, **NAMED}
        status: int = ask(
            app.test_client(), "/api/v1/access/pair", body, address=address
        ).status_code
        return status

    for n in range(62):
        attempt(f"192.168.7.{100 + n % 20}", passphrase=f"guess {n}")
    assert attempt("192.168.7.9", passphrase=PHRASE) == 429
    assert attempt("192.168.7.9", code=code_of(demo)) == 200
    # Who guesses codes is held up as who guesses passphrases is.
    guessed = [attempt("192.168.7.30", code="AAAABBBB") for _ in range(5)]
    assert guessed[:3] == [403] * 3
    assert guessed[3:] == [429] * 2


def test_guessing_from_many_addresses_is_refused_too() -> None:
    tries = Tries()
    for i in range(60):
        tries.wrong(f"10.0.0.{i}", 5.0 + i)
    assert tries.wait("10.0.1.1", 70.0) == 0
    tries.wrong("10.0.1.2", 66.0)
    assert tries.wait("10.0.1.1", 70.0) > 800
    assert tries.wait("10.0.1.1", 66.0 + REFUSED_S) == 0


@given(st.lists(st.tuples(st.integers(0, 3), st.floats(0, 500)), max_size=40))
def test_waiting_never_grows_by_waiting(said: list[tuple[int, float]]) -> None:
    tries, now = Tries(), 0.0
    for who, later in said:
        now += later
        wait = tries.wrong(str(who), now)
        assert 0 <= wait <= REFUSED_S
        assert tries.wait(str(who), now + wait) == 0
        tries.right(str(who)) if who == 3 else None


def test_a_code_ends(demo: FlaskClient, stranger: FlaskClient, moment: list[float]) -> None:
    code = code_of(demo)
    moment[0] += LASTS_S + 1
    said = {"code": code, **NAMED}
    assert ask(stranger, "/api/v1/access/pair", said).status_code == 403
    codes = Codes()
    first = codes.make(0.0)
    for _ in range(20):
        codes.make(1.0)
    assert not codes.use(first.text, 2.0), "only so many are open"


def test_a_name_that_is_none_uses_up_no_code(demo: FlaskClient, stranger: FlaskClient) -> None:
    code = code_of(demo)
    for field, bad in (("name", " "), ("person", ""), ("name", "x" * 81), ("name", "a\u202eb")):
        answer = ask(stranger, "/api/v1/access/pair", {"code": code, **NAMED, field: bad})
        assert answer.status_code == 422
        assert answer.json is not None
        assert answer.json["errors"][0]["field"] == field
    assert ask(stranger, "/api/v1/access/pair", {"code": code, **NAMED}).status_code == 200


def test_thrown_out_is_out(demo: FlaskClient, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    assert ask(stranger, "/api/v1/jobs").status_code == 200
    devices = demo.get("/api/v1/access/network").json["devices"]  # type: ignore[index]
    assert [(d["name"], d["person"]) for d in devices] == [tuple(NAMED.values())]
    gone = demo.delete(f"/api/v1/access/devices/{devices[0]['id']}")
    assert gone.json["devices"] == []  # type: ignore[index]
    told = ask(stranger, "/api/v1/jobs")
    assert (told.status_code, told.headers.get(REMOVED)) == (401, "yes"), "it is to keep nothing"
    again = ask(stranger, "/api/v1/jobs")
    assert (again.status_code, again.headers.get(REMOVED)) == (401, None), "and is told so once"
    gone = f"/api/v1/access/devices/{devices[0]['id']}"
    assert demo.delete(gone).status_code == 404
    assert demo.post(gone, json=NAMED).status_code == 404, "it has no name any more either"


def test_one_whose_time_has_ended_is_not_told_to_forget(
    demo: FlaskClient, stranger: FlaskClient
) -> None:
    paired(demo, stranger)
    with closing(connect(demo.application.config["DATABASE"])) as own, transaction(own):
        own.execute("UPDATE device SET ends_at = '2020-01-01T00:00:00Z'")
    told = ask(stranger, "/api/v1/jobs")
    assert (told.status_code, told.headers.get(REMOVED)) == (401, None), "what waits is sent later"


def test_leaving_is_out_and_the_cookie_goes(demo: FlaskClient, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    cookie = stranger.get_cookie(COOKIE, domain="192.168.7.20")
    assert cookie is not None
    left = ask(stranger, "/api/v1/access/leave", {})
    assert left.json["paired"] is False  # type: ignore[index]
    assert ask(stranger, "/api/v1/jobs").status_code == 401
    headers = {**OWN, "Cookie": f"{COOKIE}={cookie.value}"}
    assert ask(stranger, "/api/v1/jobs", headers=headers).status_code == 401, "nor with the old one"


def test_a_session_ends(demo: FlaskClient, app: Flask, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    connection = connect(app.config["DATABASE"])
    past = (datetime.now(UTC) - timedelta(seconds=1)).isoformat(timespec="seconds")
    connection.execute("UPDATE device SET ends_at = ?", (past.replace("+00:00", "Z"),))
    assert ask(stranger, "/api/v1/jobs").status_code == 401
    made, token = pairing.pair(connection, "later", "Ida", datetime.now(UTC) - pairing.LASTS)
    assert pairing.known(connection, token, datetime.now(UTC)) is None
    assert pairing.known(connection, token, datetime.now(UTC) - timedelta(days=1)) == made
    connection.close()


def test_cookies_that_were_made_up_or_stolen(
    demo: FlaskClient, app: Flask, stranger: FlaskClient
) -> None:
    paired(demo, stranger)
    value = stranger.get_cookie(COOKIE, domain="192.168.7.20").value  # type: ignore[union-attr]
    other = URLSafeSerializer("another key", salt="device").dumps("token")
    for bad in (
        "",
        "x",
        value[:-1],
        value + "x",
        f"x{value}",
        str(other),
        value.split(".")[0],
        "a" * 900,
    ):
        headers = {**OWN, "Cookie": f"{COOKIE}={bad}"}
        answer = ask(app.test_client(use_cookies=False), "/api/v1/jobs", headers=headers)
        assert answer.status_code == 401, bad
    # One that was copied opens until its device is thrown out: that is what throwing out is for.
    headers = {**OWN, "Cookie": f"{COOKIE}={value}"}
    assert (
        ask(app.test_client(use_cookies=False), "/api/v1/jobs", headers=headers).status_code == 200
    )


@pytest.mark.parametrize(
    "headers",
    [
        {}, {"Origin": "null"}, {"Origin": "http://evil.example"}, {"Origin": f"https://{HOST}"},
        {"Origin": "http://192.168.7.20"}, {"Origin": "http://127.0.0.1:8765"}, {"Origin": "http://["},
    ],
)  # fmt: skip
def test_what_is_written_comes_from_these_pages(
    demo: FlaskClient, stranger: FlaskClient, headers: dict[str, str]
) -> None:
    paired(demo, stranger)
    assert ask(stranger, f"{MARRAM}/put-away", {}, headers=headers).status_code == 403
    assert ask(stranger, f"{MARRAM}/put-away", {}).status_code == 200


@pytest.mark.parametrize(
    "host",
    ["evil.example", "evil.example:8766", "192.168.7.20", "192.168.7.21:8766", "localhost:8766"],
)
def test_only_by_the_names_it_has(demo: FlaskClient, stranger: FlaskClient, host: str) -> None:
    paired(demo, stranger)
    more = {"base_url": f"http://{host}", "headers": {"Origin": f"http://{host}"}}
    assert ask(stranger, "/", **more).status_code == 403
    assert ask(stranger, "/api/v1/access", **more).status_code == 403
    named = {"base_url": "http://ketch.local:8766"}
    assert ask(stranger, "/api/v1/access", **named).status_code == 200


def test_the_keys_of_the_door_stay_at_the_machine(demo: FlaskClient, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    device = demo.get("/api/v1/access/network").json["devices"][0]["id"]  # type: ignore[index]
    assert ask(stranger, "/api/v1/access/network").status_code == 403
    for path, body in (
        ("network", {"open": False}), ("passphrase", {}), ("codes", {}), (f"devices/{device}", NAMED),
    ):  # fmt: skip
        assert ask(stranger, f"/api/v1/access/{path}", body).status_code == 403
    here = demo.post("/api/v1/access/pair", json={"code": code_of(demo), **NAMED})
    assert here.status_code == 409


def test_what_a_phone_reads_is_its_persons(demo: FlaskClient, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    walk = ask(stranger, f"{MARRAM}/walk").json
    assert walk is not None
    reading = {
        "id": "a" * 32, "stage": "as_found", "scenario": walk["scenario"], "revision": walk["revision"],
        "quantity": "volts", "red": walk["points"][0]["id"], "black": walk["points"][-1]["id"],
        "typed": "12.4", "who": "Somebody Else", "view": {"run": walk["run"]},
    }  # fmt: skip
    kept = ask(stranger, f"{MARRAM}/readings", reading)
    assert kept.status_code == 200, kept.json
    file = demo.get(f"{MARRAM}/file").json
    assert file is not None
    assert next(r for r in file["readings"] if r["id"] == "a" * 32)["who"] == "Ida Brandt"
    here = {**reading, "id": "b" * 32, "who": "Olaf"}
    assert demo.post(f"{MARRAM}/readings", json=here).status_code == 200
    file = demo.get(f"{MARRAM}/file").json
    assert next(r for r in file["readings"] if r["id"] == "b" * 32)["who"] == "Olaf"  # type: ignore[index]


def test_the_switch(demo: FlaskClient, app: Flask) -> None:
    door: Door = app.extensions["network"]
    door.is_open = False
    assert demo.post("/api/v1/access/codes", json={}).status_code == 409
    early = demo.post("/api/v1/access/network", json={"open": True})
    assert early.status_code == 422, "first a passphrase"
    demo.post("/api/v1/access/passphrase", json={})
    door.trouble = "Port 8766 cannot be opened: it is taken."
    taken = demo.post("/api/v1/access/network", json={"open": True})
    assert (taken.status_code, taken.json["detail"]) == (409, door.trouble)  # type: ignore[index]
    door.trouble = ""
    now = demo.post("/api/v1/access/network", json={"open": True}).json
    assert now is not None
    assert (now["open"], now["passphrase"]) == (True, True)
    assert demo.post("/api/v1/access/network", json={"open": False}).json["open"] is False  # type: ignore[index]


def test_without_a_door_there_is_none(demo: FlaskClient) -> None:
    said = demo.get("/api/v1/access/network").json
    assert said is not None
    assert said["possible"] is False
    assert demo.post("/api/v1/access/network", json={"open": True}).status_code == 409
    said = demo.get("/api/v1/access").json
    assert said is not None
    assert (said["door"], said["paired"]) == ("here", True)


def test_a_device_is_called_otherwise(demo: FlaskClient, stranger: FlaskClient) -> None:
    paired(demo, stranger)
    device = demo.get("/api/v1/access/network").json["devices"][0]["id"]  # type: ignore[index]
    path = f"/api/v1/access/devices/{device}"
    now = demo.post(path, json={"name": "bench laptop", "person": "Olaf"}).json
    assert now is not None
    assert now["devices"][0]["name"] == "bench laptop"
    assert ask(stranger, "/api/v1/access").json["person"] == "Olaf"  # type: ignore[index]
    assert demo.post(path, json={"name": "", "person": "x"}).status_code == 422
    other = "/api/v1/access/devices/none"
    assert demo.post(other, json=NAMED).status_code == 404


def test_only_so_many_devices(app: Flask) -> None:
    connection = connect(app.config["DATABASE"])
    for i in range(pairing.MOST_DEVICES):
        pairing.pair(connection, f"phone {i}", "Ida", datetime.now(UTC))
    with pytest.raises(Exception, match="throw one out first"):
        pairing.pair(connection, "one more", "Ida", datetime.now(UTC))
    later = datetime.now(UTC) + pairing.LASTS + timedelta(days=1)
    pairing.pair(connection, "one more", "Ida", later)
    assert len(pairing.devices(connection)) == 1, "those whose time has ended make room"
    connection.close()
