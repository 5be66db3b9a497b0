"""The application served by its own command, for what is timed."""

import json
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from typing import Any


class Served:
    """The application served by its own command, and asked over HTTP."""

    def __init__(self, database: Path) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        command = [Path(sys.executable).with_name("spare-margin"), "serve", "--no-browser"]
        more = ["--port", str(self.port), "--database", str(database)]
        self.process = subprocess.Popen([*map(str, command), *more], stdout=subprocess.DEVNULL)

    def ask(self, path: str, body: object = None) -> Any:
        """The answer to a request, as bytes."""
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(
            f"http://127.0.0.1:{self.port}{path}", data, {"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(request) as answer:
            return answer.read()

    def wait(self) -> None:
        """Until it answers."""
        while True:
            try:
                self.ask("/")
                return
            except OSError:
                time.sleep(0.02)

    def stop(self) -> None:
        """Stop it, and wait until it has."""
        self.process.terminate()
        self.process.wait()
