"""Copies of all jobs: how many there are, and one more."""

from datetime import UTC, datetime

from flask import current_app

from spare_margin.store.file.backups import back_up, backups, put_away_old
from spare_margin.web.common.area import area
from spare_margin.web.copies.models import CopiesOut

copies_api = area("copies", __name__, "/api/v1/copies", "copies")


@copies_api.get("", responses={200: CopiesOut})
def copies_read() -> dict[str, object]:
    """The copies there are."""
    return _copies().model_dump()


@copies_api.post("", responses={200: CopiesOut})
def copies_make() -> dict[str, object]:
    """One more copy, now."""
    moment = datetime.now(UTC)
    made = back_up(current_app.config["DATABASE"], moment, asked_for=True)
    put_away_old(current_app.config["DATABASE"], moment, made.path)
    return _copies().model_dump()


def _copies() -> CopiesOut:
    found = backups(current_app.config["DATABASE"])
    newest = found[0].made_at.isoformat().replace("+00:00", "Z") if found else None
    return CopiesOut(count=len(found), newest=newest)
