"""Meters that speak: added, tried, taken out; what each shows; a figure taken by a press."""

from dataclasses import replace
from typing import cast

from flask import Response, current_app

from spare_margin.core.errors import JobError
from spare_margin.core.model.meters import Connection
from spare_margin.instruments.lines import ports
from spare_margin.instruments.link import LinkTrouble
from spare_margin.service.errors import NotThere
from spare_margin.service.job.revising import new_id
from spare_margin.service.live.room import MeterRoom, tried
from spare_margin.store import meters as store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import connection, the_workshop
from spare_margin.wording.measured.meters import trouble_words

from .models import (
    FigureChoice,
    MeterAdded,
    MeterForm,
    MeterPath,
    MetersOut,
    MeterTried,
    OnSource,
    Pressed,
)
from .view import shown_out, shows_words, typed_of

meters_api = area("meters", __name__, "/api/v1/meters", "meters")
STREAM = "/api/v1/meters/stream"
MOST_METERS = 8


def room() -> MeterRoom:
    """The meters that are watched."""
    return cast(MeterRoom, current_app.extensions["meters"])


@meters_api.get("", responses={200: MetersOut})
def read_meters() -> dict[str, object]:
    """Every meter that was added, and what it shows now."""
    watched = room()
    return MetersOut(
        meters=store.connections(connection()),
        shown=[shown_out(watched, key, shown) for key, shown in watched.shown().items()],
        ports=[port for port, _ in ports()],
        specs=list(the_workshop().tables.meters),
    ).model_dump()


@meters_api.post("", responses={201: MeterAdded})
def add_meter(body: MeterForm) -> tuple[dict[str, object], int]:
    """Add a meter, and begin to watch it."""
    held = store.connections(connection())
    if len(held) >= MOST_METERS:
        raise JobError("name", f"there are {MOST_METERS} meters already", "one fewer")
    made = _connection(body, new_id())
    if not made.name.strip():
        raise JobError("name", "is empty", "what the meter is called")
    if made.name.casefold() in {each.name.casefold() for each in held}:
        raise JobError("name", f"{made.name} is there already", "another name")
    store.keep_connection(connection(), made)
    room().keep([*held, made])
    return MeterAdded(id=made.id).model_dump(), 201


@meters_api.post("/test", responses={200: MeterTried})
def try_meter(body: MeterForm) -> dict[str, object]:
    """Ask a meter once what it is and what it shows; nothing is kept."""
    try:
        answered = tried(_connection(body, "tried"))
    except LinkTrouble as trouble:
        raise JobError("address", trouble_words(trouble.wrong, trouble.seen), "") from None
    return MeterTried(
        who=answered.who,
        shows=shows_words(answered.sample),
        figures=[FigureChoice(text=text, unit=unit) for text, unit in answered.figures],
    ).model_dump()


@meters_api.post("/<string:meter>/remove", responses={204: None})
def remove_meter(path: MeterPath) -> tuple[str, int]:
    """Take a meter out; readings that it gave stay."""
    if not store.drop_connection(connection(), path.meter):
        raise NotThere("there is no such meter")
    room().keep(store.connections(connection()))
    return "", 204


@meters_api.post("/<string:meter>/press", responses={200: Pressed})
def press(path: MeterPath) -> dict[str, object]:
    """Take what stands still on a meter now, as by a press of a key or a pedal."""
    try:
        taken = room().press(path.meter)
    except KeyError:
        raise NotThere("there is no such meter") from None
    if taken is None:
        return Pressed(typed="", by_meter=None).model_dump()
    standing, figure = taken
    return Pressed(typed=typed_of(standing), by_meter=figure).model_dump()


@meters_api.post("/<string:meter>/source", responses={204: None})
def leave_on_source(path: MeterPath, body: OnSource) -> tuple[str, int]:
    """Say whether a meter stays on the source's posts; one at most does."""
    held = store.connections(connection())
    if path.meter not in {each.id for each in held}:
        raise NotThere("there is no such meter")
    for each in held:
        stays = body.on if each.id == path.meter else each.on_source and not body.on
        if stays != each.on_source:
            store.keep_connection(connection(), replace(each, on_source=stays))
    room().keep(store.connections(connection()))
    return "", 204


@meters_api.get("/stream", responses={200: None})
def stream() -> Response:
    """What every meter shows, as it comes (server-sent events). The server itself goes on with it."""
    return Response("", mimetype="text/event-stream")


def _connection(body: MeterForm, key: str) -> Connection:
    address = body.address.strip()
    if not address:
        raise JobError("address", "is empty", "192.168.1.20, /dev/ttyUSB0 or COM3")
    if body.spec and body.spec not in the_workshop().tables.meters:
        raise JobError("spec", f"there is no {body.spec[:60]}", "a row of the table of meters")
    return Connection(
        id=key, name=body.name.strip(), speaks=body.speaks, address=address, spec=body.spec,
        figure=body.figure, unit=body.unit, baud=body.baud,
    )  # fmt: skip
