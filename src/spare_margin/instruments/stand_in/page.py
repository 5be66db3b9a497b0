"""A small page by which the stand-in's leads are laid, its switch turned, its plug pulled."""

import socket
from collections.abc import Mapping
from contextlib import suppress
from threading import Thread
from typing import Any

from flask import Flask, Response, redirect, render_template_string, request
from werkzeug.serving import make_server

from spare_margin.wording.craft.pieces import piece_name

from .meter import StandInMeter, Switch
from .scpi_server import HOST, ScpiServer

TEMPLATE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Stand-in meter</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<style>
body { font: 16px/1.4 system-ui, sans-serif; margin: 1rem auto; max-width: 46rem; padding: 0 1rem;
  background: #f4f0e8; color: #1c2226 }
button { font: inherit; min-height: 2.75rem; padding: 0 .8rem; border: 1px solid #8a7f6d;
  border-radius: .3rem; background: #fffdf7; cursor: pointer }
button[aria-pressed=true] { background: #1c2226; color: #fffdf7 }
td { padding: .15rem .3rem } th { text-align: left; font-weight: normal }
form { display: inline-block; margin: 0 .3rem .3rem 0 }
select, input { font: inherit; min-height: 2.75rem; max-width: 14rem; border: 1px solid #8a7f6d;
  border-radius: .3rem; background: #fffdf7 }
caption { text-align: left; font-weight: bold; padding-top: .5rem }
</style></head><body>
<h1>Stand-in meter</h1>
<p>It answers SCPI at <b>127.0.0.1:{{ server.port }}</b>
{% if server.terminal %} and at <b>{{ server.terminal }}</b>{% endif %}.
Lay its leads; what it shows is read from a craft that is solved.</p>
<form method="post"><button name="lift" value="yes">Lift both leads</button></form>
{% for name, key in switches.items() %}<form method="post"><button name="switch" value="{{ name }}"
  aria-pressed="{{ 'true' if key == meter.switch else 'false' }}">{{ name }}</button></form>{% endfor %}
<form method="post"><button name="clamp" value="{{ 'no' if meter.clamp else 'yes' }}"
  aria-pressed="{{ 'true' if meter.clamp else 'false' }}">Clamp closed</button></form>
<form method="post"><button name="asleep" value="{{ 'no' if meter.asleep else 'yes' }}"
  aria-pressed="{{ 'true' if meter.asleep else 'false' }}">Asleep</button></form>
<form method="post"><button name="plugged" value="{{ 'no' if meter.plugged else 'yes' }}"
  aria-pressed="{{ 'false' if meter.plugged else 'true' }}">Unplugged</button></form>
<p>{% for load in meter.world.craft.loads %}{% for state in ("on", "off") %}<form method="post">
<input type="hidden" name="load" value="{{ load.id }}"><button name="state" value="{{ state }}"
  aria-pressed="{{ 'true' if (load.id in on) == (state == 'on') else 'false' }}">
{{ load.name or load.id }} {{ state }}</button></form>{% endfor %}{% endfor %}</p>
<form method="post"><label>Ohms more in <select name="piece">
{% for key, name in pieces.items() %}<option value="{{ key }}">{{ name }}</option>{% endfor %}
</select></label>
<label>ohm <input name="ohm" size="6" value="0.2"></label><button>Set</button></form>
<table><caption>Where the leads lie</caption>
{% for key, name in meter.points().items() %}<tr><th scope="row">{{ name }}</th>
{% for lead, held in (("red", meter.red), ("black", meter.black)) %}<td><form method="post">
<button name="{{ lead }}" value="{{ key }}" aria-pressed="{{ 'true' if key == held else 'false' }}"
 aria-label="{{ lead }} lead on {{ name }}">{{ lead }}</button></form></td>{% endfor %}</tr>{% endfor %}
</table></body></html>"""
SWITCHES: dict[str, Switch] = {
    "DC volts": "volts", "AC volts": "volts_ac", "Amperes, clamp": "amperes",
}  # fmt: skip


def page_of(server: ScpiServer) -> Flask:
    """The page of a stand-in."""
    app, meter = Flask(__name__), server.meter

    @app.get("/")
    def show() -> str:
        pieces = {p.id: f"{piece_name(p)} ({p.side})" for p in meter.world.craft.pieces}
        return render_template_string(
            TEMPLATE, server=server, meter=meter, switches=SWITCHES, pieces=pieces,
            on=meter.world.scenario(meter.moment).on,
        )  # fmt: skip

    @app.post("/")
    def pressed() -> Any:
        # Another site's page must not lay the leads through somebody's browser.
        if request.headers.get("Origin") not in (None, request.host_url.rstrip("/")):
            return Response("This came from another page.", 403)
        _lay(meter, request.form)
        with suppress(KeyError, ValueError):
            _change(meter, request.form)
        _trouble(server, request.form)
        return redirect("/", 303)

    return app


def _lay(meter: StandInMeter, said: Mapping[str, str]) -> None:
    known = meter.points()
    if "lift" in said:
        meter.lay("", "")
    if said.get("red") in known:
        meter.lay(said["red"], meter.black)
    if said.get("black") in known:
        meter.lay(meter.red, said["black"])
    if (turned := SWITCHES.get(said.get("switch", ""))) is not None:
        meter.turn(turned)
    if "clamp" in said:
        meter.clamp = meter.world.run.load.id if said["clamp"] == "yes" else ""


def _change(meter: StandInMeter, said: Mapping[str, str]) -> None:
    if "load" in said:
        meter.command(said["load"], "running" if said.get("state") == "on" else "off")
    if "piece" in said:
        meter.fault(said["piece"], float(said.get("ohm", "0")))


def _trouble(server: ScpiServer, said: Mapping[str, str]) -> None:
    if "asleep" in said:
        server.meter.asleep = said["asleep"] == "yes"
    if said.get("plugged") == "no":
        server.pull()
    elif "plugged" in said:
        server.meter.plugged = True


class LeadsPage:
    """Serves the page on this machine; port 0 takes a free one."""

    def __init__(self, server: ScpiServer, port: int = 0) -> None:
        # Given a port that is taken, this server would end the program.
        with socket.create_server((HOST, port)) as own:
            self.port: int = own.getsockname()[1]
            self._made = make_server(
                HOST, self.port, page_of(server), threaded=True, fd=own.fileno()
            )

    def start(self) -> None:
        """Begin to answer."""
        Thread(target=self._made.serve_forever, daemon=True, name="stand-in page").start()

    def stop(self) -> None:
        """Answer no more."""
        self._made.shutdown()
        self._made.server_close()
