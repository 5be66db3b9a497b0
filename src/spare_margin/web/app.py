"""The application factory: a connection per request, the API's blueprints, the built pages."""

import math
import mimetypes
import sqlite3
from contextlib import closing
from functools import cache
from hashlib import sha256
from pathlib import Path
from secrets import token_urlsafe

from flask import Flask, Response, current_app, g, request, send_from_directory
from flask_openapi3.models.info import Info
from flask_openapi3.openapi import OpenAPI

from spare_margin import __version__
from spare_margin.core.patience import allow, never
from spare_margin.exchange.job_file.job_file import MOST_BYTES
from spare_margin.service.access.codes import Codes
from spare_margin.service.access.tries import EVERYBODY_BY_CODE, Tries
from spare_margin.service.errors import NotThere
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.revising import ACTING
from spare_margin.service.live.recorder import Recorder
from spare_margin.service.live.room import MeterRoom
from spare_margin.service.upgrade.sizing_runs import SizingRuns
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.meters import connections
from spare_margin.web import problems
from spare_margin.web.access import guard
from spare_margin.web.access.routes import access_api
from spare_margin.web.common.context import GIVEN_UP, the_workshop
from spare_margin.web.common.models import PERSON, Problem
from spare_margin.web.copies.routes import copies_api
from spare_margin.web.craft.routes import craft_api
from spare_margin.web.drawing.routes import drawing_api
from spare_margin.web.drawing.run_table import run_table_api
from spare_margin.web.jobs.list_worker import ListWorker
from spare_margin.web.jobs.routes import jobs_api
from spare_margin.web.lists.routes import lists_api
from spare_margin.web.logs.routes import logs_api
from spare_margin.web.meters.routes import meters_api
from spare_margin.web.photographs.routes import photographs_api
from spare_margin.web.practice.lessons import lessons_api
from spare_margin.web.practice.routes import practice_api
from spare_margin.web.proof.routes import proof_api
from spare_margin.web.recordings.routes import recordings_api
from spare_margin.web.sheet.routes import sheet_api
from spare_margin.web.source.routes import source_api
from spare_margin.web.tables.routes import tables_api
from spare_margin.web.upgrade.routes import upgrade_api
from spare_margin.web.walk.routes import walk_api
from spare_margin.wording.language.units import IN_USE, Units

PAGES = Path(__file__).parent / "app"
PATIENCE_S = 30.0
"""How long working out one answer may take."""
COMPRESSED = {"br": ".br", "gzip": ".gz"}
"""What lies compressed beside a script or style, by how it is asked for; the smaller first."""
NONCE, BUILD = "NONCE-OF-THIS-PAGE", "BUILD-OF-THIS-PAGE"
"""Stand in the built page where its nonce goes, and what tells this build from another."""


@cache
def build() -> str:
    """What tells the pages that lie here from those of another version; nothing where none are built."""
    try:
        return sha256((PAGES / "index.html").read_bytes()).hexdigest()[:12]
    except OSError:
        return ""


def create_app(database: Path) -> Flask:
    """The application over one database file, which is brought to the newest schema first."""
    app = OpenAPI(
        __name__,
        info=Info(title="Spare Margin", version=__version__),
        doc_ui=False,
        static_folder=None,
        validation_error_status=422,
        validation_error_model=Problem,
        validation_error_callback=problems.from_validation,
    )
    app.config["MAX_CONTENT_LENGTH"] = MOST_BYTES + 1000
    app.json.sort_keys = False  # type: ignore[attr-defined]
    for api in (
        access_api,
        copies_api,
        jobs_api,
        drawing_api,
        lists_api,
        run_table_api,
        craft_api,
        sheet_api,
        source_api,
        walk_api,
        upgrade_api,
        proof_api,
        logs_api,
        meters_api,
        recordings_api,
        photographs_api,
        practice_api,
        lessons_api,
        tables_api,
    ):
        app.register_api(api)
    problems.register(app)
    app.before_request(guard.refused)
    app.before_request(_in_the_workshops_units)
    app.after_request(_headers)
    app.teardown_appcontext(_close)
    _add_pages(app)
    put_over(app, database)
    return app


def put_over(app: Flask, database: Path) -> None:
    """Let an application stand over a database file; nothing that it remembers of another stays."""
    migrate(database)
    held = app.extensions.pop("listed", None)
    if held is not None:
        held.stop()
    recording = app.extensions.pop("recorder", None)
    if recording is not None:
        recording.close()
    watched = app.extensions.setdefault("meters", MeterRoom())
    with closing(connect(database)) as connection:
        watched.keep(connections(connection))
    caches = Caches()
    app.config |= {"DATABASE": database, "PATIENCE_S": PATIENCE_S}
    app.extensions |= {
        "caches": caches, "sizings": SizingRuns(), "codes": Codes(), "tries": Tries(),
        "code_tries": Tries(EVERYBODY_BY_CODE),
        "listed": ListWorker(app),
        "recorder": Recorder(database, watched, caches),
    }  # fmt: skip
    app.extensions.pop("network", None)


def _in_the_workshops_units() -> None:
    if request.path.startswith("/api/"):
        given_up = request.environ.get(GIVEN_UP, never)
        allow(current_app.config["PATIENCE_S"], given_up)
        IN_USE.set(the_workshop().units)
        ACTING.set(guard.who())


def _content_policy(nonce: str | None) -> str:
    """Nothing from elsewhere, nothing inline; a page's own components may style by its nonce."""
    styled = f" 'nonce-{nonce}'" if nonce else ""
    return (
        f"default-src 'self'; script-src 'self'; style-src 'self'{styled}; img-src 'self' data: blob:; "
        "object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
    )


def _headers(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = _content_policy(g.get("nonce"))
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    if request.path.startswith("/api/"):
        response.headers["Cache-Control"] = "no-store"
        response.headers["X-Build"] = build()
    return response


def _close(_: BaseException | None) -> None:
    IN_USE.set(Units())
    ACTING.set("")
    PERSON.set("")
    allow(math.inf)
    connection: sqlite3.Connection | None = g.pop("connection", None)
    if connection is not None:
        connection.close()


def _add_pages(app: OpenAPI) -> None:
    def openapi() -> Response:
        """The API's own description: see `make contracts`."""
        return send_from_directory(Path(__file__).parent, "openapi.json", max_age=0)

    def assets(name: str) -> Response:
        """Scripts, styles and fonts, compressed as the browser takes them; names change with content."""
        folder = PAGES / "assets"
        ends = {c: end for c, end in COMPRESSED.items() if (folder / f"{name}{end}").is_file()}
        coding = next((c for c in ends if request.accept_encodings[c] > 0), None)
        kind = mimetypes.guess_type(name)[0]
        answer = send_from_directory(
            folder, name + (ends[coding] if coding else ""), mimetype=kind, max_age=31_536_000
        )
        if ends:
            answer.headers["Vary"] = "Accept-Encoding"
        if coding is not None:
            answer.headers["Content-Encoding"] = coding
        return answer

    def page(path: str = "") -> Response:
        if path.startswith("api/"):
            raise NotThere("There is nothing at this address.")
        if not (PAGES / "index.html").is_file():
            return Response(
                "The pages are not built yet. Run `make demo`, which builds them.",
                503,
                content_type="text/plain; charset=utf-8",
            )
        if path in ("icon.svg", "worker.js"):
            return send_from_directory(PAGES, path, max_age=0)
        g.nonce = token_urlsafe(16)
        text = (PAGES / "index.html").read_text(encoding="utf-8")
        text = text.replace(NONCE, g.nonce).replace(BUILD, build())
        answer = Response(text, content_type="text/html; charset=utf-8")
        answer.headers["Cache-Control"] = "no-cache"
        return answer

    app.add_url_rule("/api/v1/openapi.json", "openapi", openapi)
    app.add_url_rule("/assets/<path:name>", "assets", assets)
    app.add_url_rule("/", "page", page)
    app.add_url_rule("/<path:path>", "page", page)
