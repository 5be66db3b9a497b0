"""What the documents point to is there."""

import re
from pathlib import Path

import pytest

HERE = Path(__file__).parents[1]
DOCUMENTS = [HERE / "README.md", HERE / "CONTRIBUTING.md", *sorted((HERE / "docs").rglob("*.md"))]
FOLDERS = ("src", "tests", "scripts", "frontend/src", "frontend/tests", "docs")
ELSEWHERE = {"settings.json", "job.json", "/api/v1/openapi.json"}
"""Names of what the program makes and gives."""


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_every_file_that_is_named_is_there(document: Path) -> None:
    there = [f"/{p.relative_to(HERE)}" for name in FOLDERS for p in (HERE / name).rglob("*.*")]
    there += [f"/frontend/{p.name}" for p in (HERE / "frontend").glob("*.*")]
    text = document.read_text("utf-8")
    named = re.findall(r"`([\w./-]+\.(?:py|tsx?|sql|sh|mjs|json|css))`", text)
    linked = re.findall(r"\]\(([\w./-]+)\)", text)
    missing = [name for name in named if not any(path.endswith(f"/{name}") for path in there)]
    missing += [name for name in linked if not (document.parent / name).exists()]
    assert set(missing) <= ELSEWHERE
