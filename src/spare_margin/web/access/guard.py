"""Every request is looked at before it is answered: by which name it came, from which page, and from whom.

From this machine itself nobody needs to be paired. Over the local network the pages are for everybody, what
they show is for paired devices, and what is written must come from these pages too.
"""

import re
import threading
from datetime import UTC, datetime
from ipaddress import ip_address
from secrets import token_urlsafe
from typing import cast
from urllib.parse import unquote, urlsplit

from flask import Flask, Response, current_app, g, request
from itsdangerous import BadSignature, URLSafeSerializer

from spare_margin.service.access import pairing
from spare_margin.store import devices as store
from spare_margin.store.devices import Device
from spare_margin.web.access.network import DOOR, LAN, Network
from spare_margin.web.common.context import connection
from spare_margin.web.common.models import PERSON
from spare_margin.web.problems import problem

COOKIE = "spare-margin"
OPEN = ("/api/v1/access", "/api/v1/access/pair")
"""What a device that is not paired may ask: whether it is, and to be."""
REMOVED = "X-Removed"
"""Tells a device that was thrown out to keep nothing of the jobs."""
SAFE = ("GET", "HEAD", "OPTIONS")
AT_THE_DESK = re.compile(r"/api/v1/meters(/test|/[^/]+/remove)?")
"""What is changed at the desk alone: which addresses this machine asks for meters."""
_signing = threading.Lock()


def by_network() -> bool:
    """Whether this request came over the local network."""
    return request.environ.get(DOOR) == LAN


def network() -> Network | None:
    """The local network's door; None where this program was started without one."""
    return cast(Network | None, current_app.extensions.get("network"))


def refused() -> Response | None:
    """Why this request is not answered; None where it is."""
    if not _is_own_host():
        return problem(403, "Refused", "This program answers to this machine's addresses only.")
    if not _from_own_page():
        return problem(403, "Refused", "This request came from another site.")
    if not by_network() or not request.path.startswith("/api/"):
        return None
    g.device = device()
    if g.device is not None:
        PERSON.set(g.device.person)
    elif request.path not in OPEN:
        return _not_paired()
    if request.method not in SAFE and AT_THE_DESK.fullmatch(request.path):
        return problem(
            403,
            "At the desk",
            "Meters are added and taken out on the machine that they are read by.",
        )
    return None


def _not_paired() -> Response:
    """To a stranger, or to one that was thrown out: that one is told once, and then forgets its token."""
    token = read_cookie(current_app, request.cookies.get(COOKIE, ""))
    if token is None or not pairing.thrown_out(connection(), token):
        return problem(
            401, "Not paired", "This device is not paired with this workshop, or no longer."
        )
    answer = problem(401, "Removed", "This device was removed from this workshop.")
    answer.headers[REMOVED] = "yes"
    take_cookie(answer)
    return answer


def _is_own_host() -> bool:
    """A name that somebody points at this machine must not reach it."""
    door = network()
    if by_network():
        return door is not None and request.host in door.state().hosts
    try:
        name = urlsplit(f"//{request.host}").hostname or ""
        return name == "localhost" or ip_address(name).is_loopback
    except ValueError:
        return False


def _from_own_page() -> bool:
    """Another site's page must not write here through the visitor's browser."""
    if request.method in SAFE:
        return True
    origin = request.headers.get("Origin")
    if origin is None:
        return not by_network()
    try:
        said = urlsplit(origin)
    except ValueError:
        return False
    return (said.scheme, said.netloc) == (request.scheme, request.host)


def device() -> Device | None:
    """The paired device that this request came from."""
    return device_of_cookie(request.cookies.get(COOKIE, ""))


def device_of_cookie(value: str) -> Device | None:
    """The device that a cookie was given to; None where it was thrown out, or its time has ended."""
    token = read_cookie(current_app, value)
    return None if token is None else pairing.known(connection(), token, datetime.now(UTC))


def who() -> str:
    """Who reads or changes: over the network the person of the device, else as the page says."""
    return PERSON.get() or " ".join(unquote(request.headers.get("X-Who", "")).split())[:120]


def _signer(app: Flask) -> URLSafeSerializer:
    with _signing:
        if "cookies" not in app.extensions:
            key = store.keep_secret_once(connection(), "cookies", token_urlsafe(32))
            app.extensions["cookies"] = URLSafeSerializer(key, salt="device")
    return cast(URLSafeSerializer, app.extensions["cookies"])


def read_cookie(app: Flask, value: str) -> str | None:
    """The token in a cookie that this program signed; None for any other."""
    if not value or len(value) > 500:
        return None
    try:
        return str(_signer(app).loads(value))
    except BadSignature:
        return None


def give_cookie(answer: Response, token: str) -> None:
    """Let the device be known again by this token."""
    answer.set_cookie(
        COOKIE,
        str(_signer(current_app).dumps(token)),
        max_age=int(pairing.LASTS.total_seconds()),
        httponly=True,
        samesite="Strict",
        secure=request.scheme == "https",
    )


def take_cookie(answer: Response) -> None:
    """Let the device forget."""
    answer.delete_cookie(COOKIE, httponly=True, samesite="Strict", secure=request.scheme == "https")
