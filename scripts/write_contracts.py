"""Writes docs/openapi.json and docs/job-file.schema.json from the code that they describe."""

import json
import sys
import tempfile
from pathlib import Path

from spare_margin.exchange.job_file.models import schema
from spare_margin.web.app import create_app

DOCS = Path(__file__).parent.parent / "docs"


def contracts() -> dict[str, str]:
    """File name and text of every contract."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "contracts.sqlite3")
        documents = {
            "openapi.json": app.test_client().get("/api/v1/openapi.json").json,
            "job-file.schema.json": schema(),
        }
    return {name: json.dumps(doc, indent=1) + "\n" for name, doc in documents.items()}


if __name__ == "__main__":
    for name, text in contracts().items():
        (DOCS / name).write_text(text, encoding="utf-8")
    sys.stdout.write("wrote docs/openapi.json and docs/job-file.schema.json\n")
