"""The application's own server: slow and broken senders, bodies too long, TLS, opening and closing."""

import asyncio
import http.client
import json
import socket
import ssl
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from flask import Flask, Response

from spare_margin.service.access.pairing import pair, throw_out
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.addresses import host_names, lan_addresses
from spare_margin.serving.certificate import LASTS, certificate_for, fingerprint
from spare_margin.serving.doors import WORKERS, Door, server_config
from spare_margin.serving.lan import LanDoor
from spare_margin.serving.listening import Caps
from spare_margin.serving.requests import WholeRequests
from spare_margin.store.file.database import DatabaseError, connect
from spare_margin.web.access.guard import give_cookie
from spare_margin.web.access.network import NetworkTrouble
from spare_margin.web.app import create_app

NOW = datetime(2026, 5, 20, tzinfo=UTC)


class Told:
    """An application that tells what it was sent, and remembers it."""

    def __init__(self) -> None:
        self.seen: list[bytes] = []

    def __call__(self, environ: dict[str, Any], start: Any) -> list[bytes]:
        body = environ["wsgi.input"].read()
        self.seen.append(body)
        if environ["PATH_INFO"] == "/same":
            start("304 Not Modified", [])
            return []
        start("200 OK", [("Content-Type", "text/plain")])
        return [str(len(body)).encode()]


@pytest.fixture
def told() -> Told:
    return Told()


@pytest.fixture
def door(told: Told) -> Iterator[Door]:
    made = Door(told, socket.create_server(("127.0.0.1", 0)), most_bytes=lambda _: 3_000_000)
    made.open()
    yield made
    made.close()


def answer(door: Door, method: str = "GET", path: str = "/", **more: Any) -> tuple[int, bytes]:
    connection = http.client.HTTPConnection("127.0.0.1", door.port)
    connection.request(method, path, **more)
    got = connection.getresponse()
    said = got.status, got.read()
    connection.close()
    return said


def test_a_body_comes_whole(door: Door, told: Told) -> None:
    for size in (0, 1, 999_999, 1_000_001, 3_000_000):
        assert answer(door, "POST", body=b"x" * size) == (200, str(size).encode())
    chunks = iter([b"abc", b"", b"de"])
    assert answer(door, "POST", body=chunks, encode_chunked=True)[1] == b"5"
    assert told.seen[-1] == b"abcde"


def test_a_body_that_was_not_announced_comes_whole_too(told: Told) -> None:
    """HTTP/2 streams a body without saying how long it will be, or that one comes."""
    said: list[dict[str, Any]] = []
    pieces = iter([(b"abc", True), (b"de", False)])

    async def receive() -> dict[str, Any]:
        body, more = next(pieces)
        return {"type": "http.request", "body": body, "more_body": more}

    async def send(message: dict[str, Any]) -> None:
        said.append(message)

    scope = {
        "type": "http", "method": "POST", "path": "/", "query_string": b"", "headers": [],
        "scheme": "https", "root_path": "", "http_version": "2", "server": ("x", 1),
        "client": ("y", 2),
    }  # fmt: skip
    # A thread of its own: where browser tests ran before, this one already has a loop that runs.
    with ThreadPoolExecutor(1) as workers, ThreadPoolExecutor(1) as loop:
        whole = WholeRequests(told, workers, lambda _: 10, lambda: False)
        loop.submit(asyncio.run, whole(scope, receive, send)).result()
    assert [m.get("status", m.get("body")) for m in said] == [200, b"5", b""]


def test_an_answer_without_a_body_is_one(door: Door) -> None:
    assert answer(door, path="/same") == (304, b"")


def test_it_closes_however_soon_it_is_told_to(told: Told) -> None:
    for _ in range(20):
        made = Door(told, socket.create_server(("127.0.0.1", 0)))
        made.open()
        made.close()
    Door(told, socket.create_server(("127.0.0.1", 0))).close()


def test_who_sends_slowly_keeps_nobody_waiting(door: Door) -> None:
    """More of them than there are workers, each in the middle of a request."""
    with ExitStack() as open_ones:
        slow = []
        for i in range(4 * WORKERS):
            sender = open_ones.enter_context(socket.create_connection(("127.0.0.1", door.port)))
            sender.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 9\r\n")
            if i % 2:
                sender.sendall(b"\r\nabc")
            slow.append(sender)
        assert answer(door, "POST", body=b"quick") == (200, b"5")
        slow[1].sendall(b"defghi")
        assert slow[1].recv(12) == b"HTTP/1.1 200"


def test_who_stops_in_the_middle_is_told(told: Told) -> None:
    made = Door(told, socket.create_server(("127.0.0.1", 0)), pause_s=0.05)
    made.open()
    with socket.create_connection(("127.0.0.1", made.port)) as sender:
        sender.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 9\r\n\r\nabc")
        said = b"".join(iter(lambda: sender.recv(5000), b""))
    assert said.startswith(b"HTTP/1.1 408")
    assert told.seen == []
    made.close()


def test_a_connection_that_was_idle_for_long_is_answered(told: Told) -> None:
    """Longer than a sender may pause; others come and go meanwhile. The server's own read timeout would
    leave it open and unread."""
    assert server_config(None).read_timeout is None
    made = Door(told, socket.create_server(("127.0.0.1", 0)), pause_s=0.05)
    made.open()
    with closing(http.client.HTTPConnection("127.0.0.1", made.port)) as kept:
        for _ in range(2):
            kept.request("GET", "/")
            assert kept.getresponse().read() == b"0"
            until = time.monotonic() + 0.2
            while time.monotonic() < until:
                answer(made)
    made.close()


def test_who_has_gone_leaves_his_place(told: Told) -> None:
    made = Door(told, socket.create_server(("127.0.0.1", 0)), caps=Caps(4, 4))
    made.open()
    for n in range(12):
        with closing(http.client.HTTPConnection("127.0.0.1", made.port)) as visit:
            visit.request("GET", f"/{n}")
            assert visit.getresponse().read() == b"0"
            assert visit.sock is not None
            visit.sock.shutdown(socket.SHUT_WR)
            assert visit.sock.recv(1) == b"", "the server ends it as well"
    made.close()


def test_what_broke_off_is_not_taken_for_the_whole(door: Door, told: Told) -> None:
    for form in (
        b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\n[1, 2]",
        b"POST / HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n6\r\n[1, 2]\r\n",
    ):
        with socket.create_connection(("127.0.0.1", door.port)) as sender:
            sender.sendall(form)
            sender.shutdown(socket.SHUT_WR)
            while sender.recv(1000):
                pass
    answer(door, "POST", body=b"end")
    assert told.seen == [b"end"]


def test_what_is_too_long_is_refused_before_it_is_read(door: Door, told: Told) -> None:
    with socket.create_connection(("127.0.0.1", door.port)) as sender:
        sender.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 300000000\r\n\r\n")
        said = b"".join(iter(lambda: sender.recv(5000), b""))
    assert said.startswith(b"HTTP/1.1 413")
    assert json.loads(said.partition(b"\r\n\r\n")[2])["title"] == "Too large"
    # One that does not say how long it is, is read no further than it may be.
    with socket.create_connection(("127.0.0.1", door.port)) as sender:
        sender.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
        chunk = b"186a0\r\n" + b"x" * 100_000 + b"\r\n"
        try:
            for _ in range(31):
                sender.sendall(chunk)
            said = b"".join(iter(lambda: sender.recv(5000), b""))
            assert said.startswith(b"HTTP/1.1 413")
        except ConnectionError:
            pass  # closed while still being sent to: refused as well
    assert told.seen == []


@pytest.fixture
def application(tmp_path: Path) -> Flask:
    database = tmp_path / "jobs.sqlite3"
    fill_with_demo(database)
    return create_app(database)


def test_the_door_to_the_network_opens_and_closes(application: Flask) -> None:
    lan = LanDoor(application, 0, "127.0.0.2")
    application.extensions["network"] = lan
    assert not lan.state().is_open
    for _ in range(2):
        lan.open()
        lan.open()
        url = lan.state().urls[0]
        assert lan.state().is_open
        host = url.split("/")[2]
        connection = http.client.HTTPConnection(host)
        connection.request("GET", "/api/v1/jobs")
        assert connection.getresponse().status == 401
        connection.close()
        # A stranger sends no more than a code and a name, whatever else could be sent.
        connection = http.client.HTTPConnection(host)
        more = {"Origin": f"http://{host}", "Cookie": "spare-margin=made.up"}
        connection.request("POST", "/api/v1/jobs", body=b"x" * 20_000, headers=more)
        assert connection.getresponse().status == 413
        connection.close()
        lan.close()
        lan.close()
        with pytest.raises(ConnectionError):
            socket.create_connection(("127.0.0.2", int(host.split(":")[1])))


def test_who_was_thrown_out_sends_no_more_than_a_stranger(application: Flask) -> None:
    lan = LanDoor(application, 0, "127.0.0.2")
    application.extensions["network"] = lan
    lan.open()
    host = lan.state().urls[0].split("/")[2]

    def sent(cookie: str) -> int:
        connection = http.client.HTTPConnection(host)
        more = {"Origin": f"http://{host}", "Cookie": f"other=1; {cookie}"}
        connection.request("POST", "/api/v1/jobs", body=b"x" * 20_000, headers=more)
        status = connection.getresponse().status
        connection.close()
        return status

    with (
        application.test_request_context(),
        closing(connect(application.config["DATABASE"])) as own,
    ):
        device, token = pair(own, "a phone", "Ida", datetime.now(UTC))
        answer = Response()
        give_cookie(answer, token)
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        assert sent(cookie) == 422, "read, and no job file"
        throw_out(own, device.id, datetime.now(UTC))
        assert sent(cookie) == 413
    lan.close()


def test_a_taken_port_is_said(application: Flask) -> None:
    with socket.create_server(("127.0.0.2", 0)) as taken:
        lan = LanDoor(application, taken.getsockname()[1], "127.0.0.2")
        with pytest.raises(NetworkTrouble, match="--lan-port"):
            lan.open()
        assert not lan.state().is_open


def test_it_speaks_tls_with_a_certificate_of_its_own(application: Flask, tmp_path: Path) -> None:
    lan = LanDoor(application, 0, "127.0.0.2", tmp_path / "certificate")
    application.extensions["network"] = lan
    lan.open()
    state = lan.state()
    assert state.urls[0].startswith("https://127.0.0.2:")
    trusting = ssl.create_default_context(cafile=str(tmp_path / "certificate" / "certificate.pem"))
    host, port = state.urls[0].split("/")[2].split(":")
    connection = http.client.HTTPSConnection(host, int(port), context=trusting)
    connection.request("GET", "/api/v1/access")
    got = connection.getresponse()
    assert (got.status, json.load(got)["paired"]) == (200, False)
    shown = ssl.get_server_certificate((host, int(port)))
    made = x509.load_pem_x509_certificate(shown.encode())
    bounds = made.extensions.get_extension_for_class(x509.NameConstraints)
    assert bounds.critical
    subtrees = bounds.value.permitted_subtrees or []
    assert [str(each.value) for each in subtrees] == ["127.0.0.2/32"], "it vouches for nobody else"
    assert state.fingerprint == made.fingerprint(made.signature_hash_algorithm).hex(":").upper()  # type: ignore[arg-type]
    connection.close()
    lan.close()


def _without_bounds(folder: Path) -> None:
    """The certificate as it once was made: good for whatever it signs."""
    key = serialization.load_pem_private_key((folder / "key.pem").read_bytes(), None)
    held = x509.load_pem_x509_certificate((folder / "certificate.pem").read_bytes())
    made = (
        x509.CertificateBuilder()
        .subject_name(held.subject)
        .issuer_name(held.issuer)
        .public_key(held.public_key())
        .serial_number(held.serial_number)
        .not_valid_before(held.not_valid_before_utc)
        .not_valid_after(held.not_valid_after_utc)
    )
    for each in held.extensions:
        if not isinstance(each.value, x509.NameConstraints):
            made = made.add_extension(each.value, each.critical)
    signed = made.sign(key, hashes.SHA256())  # type: ignore[arg-type]
    (folder / "certificate.pem").write_bytes(signed.public_bytes(serialization.Encoding.PEM))


def test_a_certificate_is_kept_until_it_no_longer_serves(tmp_path: Path) -> None:
    first = fingerprint(certificate_for(tmp_path, ["192.168.7.20", "ketch.local"], NOW))
    again = lambda names, later: fingerprint(certificate_for(tmp_path, names, NOW + later))  # noqa: E731
    assert again(["ketch.local"], timedelta(days=300)) == first
    other = again(["192.168.7.21"], timedelta(0))
    assert other != first, "another address"
    assert again(["192.168.7.21"], LASTS - timedelta(days=29)) != other, "it ends soon"
    _without_bounds(tmp_path)
    assert again(["192.168.7.21"], timedelta(0)) != other, "an authority for any name is made anew"
    for name in ("certificate.pem", "key.pem"):
        (tmp_path / name).write_text("spoilt")
        assert len(again(["192.168.7.21"], timedelta(0))) == 32 * 3 - 1
    assert (tmp_path / "key.pem").stat().st_mode & 0o077 == 0
    (tmp_path / "file").write_text("")
    with pytest.raises(DatabaseError, match="No certificate could be kept"):
        certificate_for(tmp_path / "file", ["x"], NOW)


def test_what_this_machine_is_called(monkeypatch: pytest.MonkeyPatch) -> None:
    assert all(not a.startswith("127.") for a in lan_addresses())
    monkeypatch.setattr(socket, "gethostname", lambda: "Ketch.example")
    assert host_names() == ["ketch", "ketch.local"]
    monkeypatch.setattr(socket, "gethostname", lambda: "localhost")
    assert host_names() == []
