"""Writes the API's description and docs/job-file.schema.json from the code that they describe.

With --check nothing is written: what stands there is compared with what would be.
"""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
FILES = {
    "openapi.json": ROOT / "src" / "spare_margin" / "web" / "openapi.json",
    "job-file.schema.json": ROOT / "docs" / "job-file.schema.json",
}


def contracts() -> dict[str, str]:
    """File name and text of every contract, made in a process that is started to describe itself."""
    from spare_margin.web.common.area import DESCRIBING  # noqa: PLC0415

    said = subprocess.run(
        [sys.executable, __file__, "--print"],
        check=True, capture_output=True, text=True, env={**os.environ, DESCRIBING: "yes"},
    ).stdout  # fmt: skip
    return {name: json.dumps(doc, indent=1) + "\n" for name, doc in json.loads(said).items()}


def documents() -> dict[str, object]:
    """Every contract as a document; the process must have been started to describe itself."""
    from spare_margin.exchange.job_file.models import schema  # noqa: PLC0415
    from spare_margin.web.api_document import described  # noqa: PLC0415
    from spare_margin.web.app import create_app  # noqa: PLC0415

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "contracts.sqlite3")
        return {
            "openapi.json": described(app.api_doc),  # type: ignore[attr-defined]
            "job-file.schema.json": schema(),
        }


if __name__ == "__main__":
    if "--print" in sys.argv:
        json.dump(documents(), sys.stdout)
    elif "--check" in sys.argv:
        old = [name for name, text in contracts().items() if FILES[name].read_text("utf-8") != text]
        if old:
            sys.exit(f"{' and '.join(old)} say what the code no longer does: run `make contracts`")
    else:
        for name, text in contracts().items():
            FILES[name].write_text(text, encoding="utf-8")
            sys.stdout.write(f"wrote {FILES[name].relative_to(ROOT)}\n")
