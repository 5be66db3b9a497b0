"""Pairing, and the door's switch. What opens the door is for this machine itself alone."""

import io
import time
from datetime import UTC, datetime
from typing import cast

import segno
from flask import Response, current_app, g, jsonify, request

from spare_margin.core.errors import JobError
from spare_margin.service.access import pairing, passphrase
from spare_margin.service.access.codes import LASTS_S, Codes
from spare_margin.service.access.tries import Tries
from spare_margin.service.errors import NotThere
from spare_margin.store.devices import Device
from spare_margin.web.access.guard import (
    by_network,
    give_cookie,
    network,
    take_cookie,
)
from spare_margin.web.access.models import (
    AccessOut,
    CodeOut,
    DeviceIn,
    DeviceOut,
    DevicePath,
    NetworkIn,
    NetworkOut,
    PairIn,
    PassphraseIn,
    PassphraseOut,
)
from spare_margin.web.access.network import NetworkTrouble
from spare_margin.web.common.area import area
from spare_margin.web.common.context import connection
from spare_margin.web.problems import problem

access_api = area("access", __name__, "/api/v1/access", "access")


@access_api.before_request
def _door_keys_stay_here() -> Response | None:
    """Over the network a device may pair and leave; it may not let others in."""
    if by_network() and request.endpoint not in (
        "access.access_read", "access.access_pair", "access.access_leave",
    ):  # fmt: skip
        return problem(
            403, "Not from here", "That is done at the machine on which this program runs."
        )
    return None


@access_api.get("", responses={200: AccessOut})
def access_read() -> dict[str, object]:
    """How the page that asks stands."""
    return _access_of(g.get("device")).model_dump()


def _access_of(device: Device | None) -> AccessOut:
    here = not by_network()
    return AccessOut(
        door="here" if here else "network",
        paired=here or device is not None,
        device=device.name if device else "",
        person=device.person if device else "",
        ends_at=device.ends_at if device else None,
    )


@access_api.post("/pair", responses={200: AccessOut})
def access_pair(body: PairIn) -> Response:
    """Pair the device that asks."""
    if not by_network():
        return problem(409, "No need", "This is the machine on which the program runs.")
    # Codes have a count of their own: who guesses passphrases keeps nobody out who holds a code.
    kind = "code_tries" if body.code else "tries"
    tries, now = cast(Tries, current_app.extensions[kind]), time.monotonic()
    who = request.remote_addr or ""
    wait = tries.wait(who, now)
    if wait <= 0 and not _opens(body, now):
        wait = tries.wrong(who, now)
        if wait <= 0:
            return problem(403, "Not let in", "Wrong or expired code or passphrase.")
    if wait > 0:
        answer = problem(429, "Wait a little", f"Wrong. Try again in {_in_words(wait)}.")
        answer.headers["Retry-After"] = str(int(wait) + 1)
        return answer
    tries.right(who)
    device, token = pairing.pair(connection(), body.name, body.person, datetime.now(UTC))
    answer = jsonify(_access_of(device).model_dump())
    give_cookie(answer, token)
    return answer


def _opens(body: PairIn, now: float) -> bool:
    """Whether the code is open, or the passphrase right. A name that is none uses up no code."""
    pairing.named(body.name, body.person)
    if body.code:
        return cast(Codes, current_app.extensions["codes"]).use(body.code, now)
    return bool(body.passphrase) and passphrase.is_right(connection(), body.passphrase)


def _in_words(seconds: float) -> str:
    whole = int(seconds) + 1
    return f"{whole} seconds" if whole < 120 else f"{round(whole / 60)} minutes"


@access_api.post("/leave", responses={200: AccessOut})
def access_leave() -> Response:
    """Pair this device no more."""
    device: Device | None = g.get("device")
    if device is not None:
        pairing.throw_out(connection(), device.id, datetime.now(UTC))
    answer = jsonify(_access_of(None).model_dump())
    take_cookie(answer)
    return answer


@access_api.get("/network", responses={200: NetworkOut})
def access_network() -> dict[str, object]:
    """How the door stands, and who is paired."""
    return _network().model_dump()


def _network() -> NetworkOut:
    door = network()
    state = door.state() if door else None
    return NetworkOut(
        possible=door is not None,
        open=bool(state and state.is_open),
        urls=list(state.urls) if state else [],
        secure=bool(state and state.fingerprint),
        fingerprint=state.fingerprint if state else "",
        passphrase=passphrase.has_passphrase(connection()),
        devices=[_device(d) for d in pairing.devices(connection())],
    )


def _device(device: Device) -> DeviceOut:
    return DeviceOut(
        id=device.id, name=device.name, person=device.person, paired_at=device.paired_at,
        ends_at=device.ends_at, seen_at=device.seen_at,
    )  # fmt: skip


@access_api.post("/network", responses={200: NetworkOut})
def access_switch(body: NetworkIn) -> Response | dict[str, object]:
    """Open or close the door. It opens only once there is a passphrase."""
    door = network()
    if door is None:
        return problem(409, "Not possible", "This program was started without the local network.")
    if body.open and not passphrase.has_passphrase(connection()):
        raise JobError("open", "there is no passphrase yet", "make one first")
    try:
        if body.open:
            door.open()
        else:
            door.close()
    except NetworkTrouble as trouble:
        return problem(409, "Not possible", str(trouble))
    return _network().model_dump()


@access_api.post("/passphrase", responses={200: PassphraseOut})
def access_passphrase(body: PassphraseIn) -> dict[str, object]:
    """Change the passphrase; devices that are paired stay."""
    said = passphrase.made_up() if body.passphrase is None else passphrase.plain(body.passphrase)
    passphrase.set_passphrase(connection(), said)
    return PassphraseOut(passphrase=said).model_dump()


@access_api.post("/codes", responses={200: CodeOut})
def access_code() -> Response | dict[str, object]:
    """A code that pairs one device, as letters and as a picture to scan."""
    door = network()
    state = door.state() if door else None
    if state is None or not state.is_open or not state.urls:
        return problem(409, "Not open", "Turn on local network access first.")
    code = cast(Codes, current_app.extensions["codes"]).make(time.monotonic())
    # After the # nothing is sent to a server, nor written in its log.
    url = f"{state.urls[0]}pair#{code.text}"
    picture = io.BytesIO()
    segno.make(url, error="m").save(
        picture, kind="svg", scale=6, border=3, xmldecl=False, svgns=True
    )
    return CodeOut(
        code=f"{code.text[:4]}-{code.text[4:]}",
        url=url,
        picture=picture.getvalue().decode(),
        lasts_s=int(LASTS_S),
    ).model_dump()


@access_api.post("/devices/<device>", responses={200: NetworkOut})
def access_rename(path: DevicePath, body: DeviceIn) -> dict[str, object]:
    """Call a device otherwise."""
    if not pairing.renamed(connection(), path.device, body.name, body.person):
        raise NotThere("There is no such device; it may have been thrown out.")
    return _network().model_dump()


@access_api.delete("/devices/<device>", responses={200: NetworkOut})
def access_throw_out(path: DevicePath) -> dict[str, object]:
    """Let a device in no more."""
    if not pairing.throw_out(connection(), path.device, datetime.now(UTC)):
        raise NotThere("There is no such device; it may have been thrown out.")
    return _network().model_dump()
