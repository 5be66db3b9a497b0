"""The commands that serve the application: serve, demo."""

import os
import socket
import sqlite3
import sys
import tempfile
import threading
import time
import webbrowser
from collections.abc import Callable
from contextlib import ExitStack, closing
from dataclasses import dataclass
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING, Any

import click

from spare_margin.cli.common import DATABASE, stop, stopped_by_signals
from spare_margin.cli.stand_in import PAGE_PORT, demo_meter
from spare_margin.cli.stand_in import PORT as STAND_IN_PORT
from spare_margin.core.model.meters import Connection
from spare_margin.exchange.quantities import learn_units
from spare_margin.service.access.passphrase import has_passphrase, made_up, set_passphrase
from spare_margin.service.workshop.backing_up import BackupKeeper
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.database import DatabaseError, connect, default_path
from spare_margin.store.file.in_use import InUse, held
from spare_margin.store.file.migrating import migrate
from spare_margin.store.meters import keep_connection
from spare_margin.web.access.network import Network, NetworkTrouble

if TYPE_CHECKING:
    from spare_margin.instruments.stand_in.served import StandIn

TROUBLE = 1
LEFT_S = 0.5
"""How long the program waits for threads at its very end."""
EVERY_ADDRESS = "0.0.0.0"
PORT = click.option(
    "--port",
    type=click.IntRange(0, 65535),
    default=8765,
    envvar="PORT",
    show_default=True,
    help="The port on 127.0.0.1; 0 takes a free one.",
)
LAN = (
    click.option("--lan", is_flag=True, help="Also serve paired devices on the local network."),
    click.option(
        "--lan-port",
        type=click.IntRange(0, 65535),
        default=8766,
        show_default=True,
        help="The port on the local network; 0 takes a free one.",
    ),
    click.option(
        "--address",
        default=EVERY_ADDRESS,
        help="The address there; by default all of this machine.",
    ),
    click.option("--tls", is_flag=True, help="Use HTTPS there, with a self-signed certificate."),
)


def lan_options(command: Callable[..., None]) -> Callable[..., None]:
    """The options of the local network's door."""
    for option in reversed(LAN):
        command = option(command)
    return command


@dataclass(frozen=True, slots=True)
class Served:
    """What is served, and where."""

    database: Path
    listening: socket.socket
    browser: bool
    lan: bool
    lan_port: int
    address: str
    tls: bool
    beside: str = ""
    """What else there is, said after where the application is."""


BROWSER = click.option(
    "--browser/--no-browser", default=True, show_default=True, help="Open the page in the browser."
)


@click.command("serve")
@DATABASE
@PORT
@lan_options
@BROWSER
def serve_command(database: Path | None, port: int, **how: Any) -> None:
    """Serve the application over your own jobs."""
    with _listening(port) as listening:
        _serve(Served(database or default_path(), listening, **how))
    _leave_the_rest()


@click.command("demo")
@PORT
@lan_options
@BROWSER
def demo_command(port: int, **how: Any) -> None:
    """Serve the application over a fresh copy of the demo jobs, with a stand-in meter connected."""
    from spare_margin.instruments.stand_in.served import StandIn  # noqa: PLC0415

    prefix = "spare-margin-demo-"
    with _listening(port) as listening, tempfile.TemporaryDirectory(prefix=prefix) as folder:
        database = Path(folder) / "demo.sqlite3"
        fill_with_demo(database)
        with closing(StandIn(demo_meter(), STAND_IN_PORT, PAGE_PORT)) as meter:
            _connect(database, meter)
            beside = f"The stand-in meter's leads are laid at http://127.0.0.1:{meter.page.port}/"
            _serve(Served(database, listening, **how, beside=beside))
    _leave_the_rest()


def _connect(database: Path, meter: "StandIn") -> None:
    """Let the demo read the stand-in meter."""
    made = Connection(
        id="stand-in", name="Stand-in meter", address=f"127.0.0.1:{meter.server.port}",
        spec="Workshop multimeter",
    )  # fmt: skip
    with closing(connect(database)) as connection:
        keep_connection(connection, made)


def _listening(port: int) -> socket.socket:
    """A socket on this port of the loopback; whoever connects waits until the application serves."""
    try:
        return socket.create_server(("127.0.0.1", port))
    except OSError:
        stop(TROUBLE, f"Port {port} is taken on this machine. Name another one, as in --port 8766.")


def _serve(served: Served) -> None:
    # Only serving needs the web side; the other commands start without it.
    from spare_margin.serving.doors import Door  # noqa: PLC0415
    from spare_margin.serving.lan import LanDoor  # noqa: PLC0415
    from spare_margin.serving.list_keeper import ListKeeper  # noqa: PLC0415
    from spare_margin.web.app import create_app  # noqa: PLC0415

    address = f"http://127.0.0.1:{served.listening.getsockname()[1]}/"
    stopped = stopped_by_signals()
    with ExitStack() as at_the_end:
        try:
            at_the_end.enter_context(held(served.database, address))
            before = migrate(served.database)
            # While one connection stays open, the files beside the database stay too: a full disk then
            # keeps nobody from reading.
            own = connect(served.database)
        except InUse as trouble:
            if served.browser and trouble.address:
                webbrowser.open(trouble.address)
            stop(TROUBLE, str(trouble))
        except DatabaseError as trouble:
            stop(TROUBLE, str(trouble))
        at_the_end.callback(own.close)
        if before is not None:
            click.echo(
                f"The database was brought up to this version; as it was, it is kept in {before}"
            )
        app = create_app(served.database)
        keeper = BackupKeeper(served.database)
        keeper.start()
        at_the_end.callback(keeper.stop)
        listed = ListKeeper(app)
        listed.start()
        at_the_end.callback(listed.stop)
        desk = Door(app, served.listening, room_of=lambda: app.extensions["meters"])
        at_the_end.callback(app.extensions["meters"].close)
        at_the_end.callback(app.extensions["recorder"].close)
        desk.open()
        Thread(target=learn, daemon=True).start()
        certificates = served.database.with_name("certificate") if served.tls else None
        lan = LanDoor(app, served.lan_port, served.address, certificates)
        app.extensions["network"] = lan
        at_the_end.callback(_close_both, desk, lan)
        click.echo(f"Spare Margin is at {address} (stop it with Ctrl C)")
        if served.beside:
            click.echo(served.beside)
        if served.lan:
            _open(lan, own)
        if served.browser:
            webbrowser.open(address)
        # A wait without an end keeps Ctrl C from being heard on some systems.
        while not stopped.wait(0.5):
            pass


def _close_both(*doors: Network | Any) -> None:
    """Close the doors, each of which may have to wait for what is under way."""
    closing = [Thread(target=door.close) for door in doors]
    for each in closing:
        each.start()
    for each in closing:
        each.join()


def _leave_the_rest() -> None:
    """End, whatever is still being worked out: nobody waits for its answer, and Python would."""
    sys.stdout.flush()
    until = time.monotonic() + LEFT_S
    for thread in threading.enumerate():
        if thread is not threading.current_thread():
            thread.join(max(0.0, until - time.monotonic()))
            if thread.is_alive():
                os._exit(0)


def learn() -> None:
    """Load what the first quantity typed and the first run traced will want."""
    learn_units()
    import networkx  # noqa: F401, PLC0415


def _open(lan: Network, own: sqlite3.Connection) -> None:
    """Open the door to the local network; a passphrase is made up where there is none."""
    if not has_passphrase(own):
        phrase = made_up()
        set_passphrase(own, phrase)
        click.echo(f"The passphrase, shown this once: {phrase}")
    try:
        lan.open()
    except NetworkTrouble as trouble:
        stop(TROUBLE, str(trouble))
    state = lan.state()
    click.echo(
        f"On the local network it is at {' or '.join(state.urls)} (pair phones on the page Phones)"
    )
    if state.fingerprint:
        click.echo(
            "A phone will say that it does not know this certificate: compare its SHA-256 fingerprint, "
            f"{state.fingerprint}, then go on."
        )
