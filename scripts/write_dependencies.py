"""Writes docs/dependencies.md: what the application rests on, with versions and licences, made by tools."""

import json
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
HEAD = """# Dependencies

Made by `make dependencies` from the lock files and from what the packages say of themselves. The
application itself is under the MIT licence (SPDX: MIT, see `LICENSE`); the fonts on paper are under
`data/fonts/*-LICENSE.txt`.
"""


def names(lock: str) -> list[str]:
    """The packages that a requirements file pins."""
    text = (ROOT / "requirements" / lock).read_text(encoding="utf-8")
    return re.findall(r"^([A-Za-z0-9_.-]+)==", text, re.M)


def python_table(packages: list[str]) -> str:
    """Name, version and licence of Python packages, by pip-licenses."""
    tool = Path(sys.executable).with_name("pip-licenses")
    said = subprocess.run(
        [str(tool), "--format=json", "--from=mixed", "--packages", *packages],
        check=True, capture_output=True, text=True,
    ).stdout  # fmt: skip
    rows = [(p["Name"], p["Version"], " ".join(p["License"].split())) for p in json.loads(said)]
    return table(sorted(rows, key=lambda row: row[0].lower()))


def node_tables() -> tuple[str, str]:
    """What is in the pages, and what they are built with, as the lock file has it."""
    lock = json.loads((ROOT / "frontend" / "package-lock.json").read_text(encoding="utf-8"))
    parts: dict[bool, list[tuple[str, str, str]]] = {False: [], True: []}
    for key, held in lock["packages"].items():
        if key and not held.get("optional"):
            name = key.rsplit("node_modules/", 1)[1]
            licence = held.get("license", "not said")
            parts[bool(held.get("dev"))].append((name, held["version"], licence))
    return table(sorted(set(parts[False]))), table(sorted(set(parts[True])))


def table(rows: list[tuple[str, str, str]]) -> str:
    """Rows as a Markdown table."""
    lines = ["| package | version | licence |", "| --- | --- | --- |"]
    return "\n".join([*lines, *(f"| {' | '.join(row)} |" for row in rows)])


def document() -> str:
    """The whole document."""
    app = names("app.txt")
    dev = [name for name in names("dev.txt") if name not in app]
    pages, tools = node_tables()
    parts = [
        HEAD.rstrip(),
        f"## The program (Python)\n\n{python_table(app)}",
        f"## In the pages\n\n{pages}",
        f"## Only to test and build (Python)\n\n{python_table(dev)}",
        f"## Only to build the pages\n\n{tools}",
    ]
    return "\n\n".join(parts) + "\n"


if __name__ == "__main__":
    (ROOT / "docs" / "dependencies.md").write_text(document(), encoding="utf-8")
