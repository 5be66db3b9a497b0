"""The program and its doors end in time, whatever is under way; and its commands may be used beside it."""

import http.client
import json
import os
import random
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from threading import Event
from typing import Any

import pytest

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.doors import Door
from spare_margin.serving.listening import Caps
from spare_margin.store.file.backups import backups, what_is_wrong
from tests.test_cli_keeping import address, serving

JOB = "demo-1-sloop-marram"
PATIENCE_S = 300
"""How long something may be awaited: it says only that it will never come, not that it is slow."""
PROGRAM = [sys.executable, "-m", "spare_margin"]


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    return path


class Stuck:
    """An application that works until it is let go, or looks whether it may go on."""

    def __init__(self) -> None:
        self.begun, self.let_go = Event(), Event()

    def __call__(self, environ: dict[str, Any], start: Any) -> Iterator[bytes]:
        if environ["PATH_INFO"] == "/long":
            start("200 OK", [("Content-Type", "text/plain")])
            return iter([b"x" * 30_000_000])
        self.begun.set()
        self.let_go.wait()
        start("200 OK", [("Content-Type", "text/plain")])
        return iter([b"at last"])


def test_a_door_closes_though_a_worker_goes_on() -> None:
    stuck = Stuck()
    door = Door(stuck, socket.create_server(("127.0.0.1", 0)))
    door.open()
    with socket.create_connection(("127.0.0.1", door.port)) as asking:
        asking.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n")
        assert stuck.begun.wait(PATIENCE_S)
        closed = threading.Thread(target=door.close)
        closed.start()
        closed.join(PATIENCE_S)
        assert not closed.is_alive(), "it waits for nobody"
        with pytest.raises(ConnectionError):
            socket.create_connection(("127.0.0.1", door.port))
    stuck.let_go.set()


def test_a_door_closes_though_nobody_takes_the_answer() -> None:
    door = Door(Stuck(), socket.create_server(("127.0.0.1", 0)))
    door.open()
    with socket.create_connection(("127.0.0.1", door.port)) as asking:
        asking.sendall(b"GET /long HTTP/1.1\r\nHost: x\r\n\r\n")
        assert asking.recv(12) == b"HTTP/1.1 200"
        closed = threading.Thread(target=door.close)
        closed.start()
        closed.join(PATIENCE_S)
        assert not closed.is_alive()


def test_whoever_opens_too_many_connections_is_turned_away_and_others_are_not() -> None:
    stuck = Stuck()
    door = Door(stuck, socket.create_server(("0.0.0.0", 0)), caps=Caps(6, 3))
    door.open()
    held = []
    for host in ("127.0.0.1", "127.0.0.2", "127.0.0.3"):
        for number in range(5):
            one = socket.create_connection((host, door.port), source_address=(host, 0))
            one.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n")
            held.append((host, number, one))
    turned_away = []
    for host, number, one in held:
        one.settimeout(0.3 if number < 3 and host != "127.0.0.3" else 60)
        try:
            if one.recv(1) == b"":
                turned_away.append((host, number))
        except ConnectionError:
            turned_away.append((host, number))
        except TimeoutError:
            pass
    here, there, elsewhere = (
        [n for h, n in turned_away if h.endswith(e)] for e in [".1", ".2", ".3"]
    )
    assert here == there == [3, 4], "each has its share"
    assert elsewhere == [0, 1, 2, 3, 4], "and all together theirs"
    for _, _, one in held:
        one.close()
    # Once they are gone there is room again.
    for _ in range(200):
        with closing(http.client.HTTPConnection("127.0.0.1", door.port, timeout=60)) as again:
            try:
                again.request("GET", "/long")
                assert again.getresponse().status == 200
                break
            except (ConnectionError, http.client.RemoteDisconnected):
                continue
    else:
        pytest.fail("the door stayed full")
    door.close()


@pytest.mark.skipif(os.name != "posix", reason="signals are POSIX's")
def test_the_program_stops_in_the_middle_of_a_long_answer_and_leaves_a_copy(
    database: Path, tmp_path: Path
) -> None:
    """A request that never looks whether it may go on: the program ends all the same, with its copy."""
    stuck = tmp_path / "stuck.py"
    stuck.write_text(
        "import sys, time\n"
        "from spare_margin.service.job.session import JobSession\n"
        "def stuck(self, choice):\n"
        "    print('stuck', flush=True)\n"
        "    while True: time.sleep(0.05)\n"
        "JobSession.view = stuck\n"
        "from spare_margin.cli import main\n"
        "sys.argv[1:] = ['serve', '--no-browser', '--port', '0', '--database', sys.argv[1]]\n"
        "main()\n"
    )
    served = subprocess.Popen(
        [sys.executable, str(stuck), str(database)], stdout=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
    )  # fmt: skip
    try:
        assert served.stdout is not None
        at = address([served.stdout.readline()])
        host = at.split("/")[2].split(":")
        with socket.create_connection((host[0], int(host[1]))) as asking:
            asking.sendall(
                f"GET /api/v1/jobs/{JOB}/sheet HTTP/1.1\r\nHost: localhost\r\n\r\n".encode()
            )
            assert served.stdout.readline() == "stuck\n"
            served.send_signal(signal.SIGTERM)
            assert served.wait(PATIENCE_S) == 0
    finally:
        served.kill()
    assert len(backups(database)) == 1
    assert what_is_wrong(database) == ""


def asked(at: str, path: str, body: dict[str, Any]) -> int:
    request = urllib.request.Request(
        f"{at}api/v1/{path}", json.dumps(body).encode(), {"Content-Type": "application/json"}
    )
    try:
        with urllib.request.urlopen(request, timeout=120) as answer:
            return int(answer.status)
    except urllib.error.HTTPError as refused:
        return refused.code


def test_commands_beside_the_program_lose_nothing_that_was_acknowledged(
    database: Path, tmp_path: Path
) -> None:
    """Three who write, every command in any order, then the plug is pulled."""
    acknowledged: list[str] = []
    refused: list[int] = []
    over = Event()
    with serving(database) as (served, said):
        at = address(said)
        copy = tmp_path / "copy.sqlite3"
        commands: list[list[str]] = [
            ["backup"], ["backup", "--out", str(copy)], ["check"], ["doctor"], ["export"],
            ["export", JOB, "--out", str(tmp_path / "job.json")],
            ["export", "--all", "--out", str(tmp_path / "all")], ["restore"],
            ["restore", str(copy)],
        ]  # fmt: skip

        def write(who: str) -> None:
            number = 0
            while not over.is_set() and number < 300:
                key = f"reading-{who}-{number}"
                number += 1
                body = {
                    "id": key, "stage": "as_found", "scenario": "evening", "quantity": "volts",
                    "red": "bat+", "black": "bat-", "typed": "12.61", "view": None,
                }  # fmt: skip
                status = asked(at, f"jobs/{JOB}/readings", body)
                (acknowledged.append(key) if status == 200 else refused.append(status))

        writers = [threading.Thread(target=write, args=(w,)) for w in ("ida", "per", "una")]
        for each in writers:
            each.start()
        order = list(commands)
        random.Random(7).shuffle(order)
        try:
            for command in [["backup", "--out", str(copy)], *order]:
                done = subprocess.run(
                    [*PROGRAM, *command, "--database", str(database)],
                    check=False,
                    capture_output=True,
                    text=True,
                )
                wanted = 2 if command == ["restore", str(copy)] else 0
                assert done.returncode == wanted, (command, done.stderr)
        finally:
            over.set()
            for each in writers:
                each.join()
        served.kill()
        served.wait()
    assert refused == []
    assert len(acknowledged) > 3
    assert what_is_wrong(database) == ""
    with closing(sqlite3.connect(database)) as connection:
        kept = {row[0] for row in connection.execute("SELECT id FROM reading")}
    assert set(acknowledged) <= kept
    checked = subprocess.run(
        [*PROGRAM, "check", "--database", str(database)],
        check=False,
        capture_output=True,
        text=True,
    )
    assert checked.returncode == 0, checked.stderr
