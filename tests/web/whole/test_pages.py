"""The built pages as they are served: compressed where the browser takes it."""

import gzip
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from spare_margin.web import app as application

SCRIPT = b"export const word = 'volts';" * 50
ZIPPED = gzip.compress(SCRIPT, mtime=0)


@pytest.fixture
def built(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    assets = tmp_path / "app" / "assets"
    assets.mkdir(parents=True)
    (assets / "a.js").write_bytes(SCRIPT)
    (assets / "a.js.gz").write_bytes(ZIPPED)
    (assets / "a.js.br").write_bytes(b"as brotli")
    (assets / "a.woff2").write_bytes(b"letters")
    (tmp_path / "app" / "secret.js.gz").write_bytes(b"no asset")
    monkeypatch.setattr(application, "PAGES", tmp_path / "app")
    return assets


@pytest.mark.parametrize(
    ("taken", "coding", "body"),
    [
        ("gzip, deflate, br, zstd", "br", b"as brotli"),
        ("gzip, deflate", "gzip", ZIPPED),
        ("br;q=0, gzip", "gzip", ZIPPED),
        ("identity", None, SCRIPT),
        ("", None, SCRIPT),
    ],
    ids=["best", "no brotli", "brotli refused", "as it is", "nothing said"],
)
def test_scripts_go_out_as_the_browser_takes_them(
    client: FlaskClient, built: Path, taken: str, coding: str | None, body: bytes
) -> None:
    answer = client.get("/assets/a.js", headers={"Accept-Encoding": taken})
    assert answer.status_code == 200
    assert answer.headers.get("Content-Encoding") == coding
    assert answer.data == body
    assert answer.mimetype == "text/javascript"
    assert answer.headers["Vary"] == "Accept-Encoding"
    assert "max-age=31536000" in answer.headers["Cache-Control"]


def test_what_is_not_compressed_goes_out_as_it_is(client: FlaskClient, built: Path) -> None:
    answer = client.get("/assets/a.woff2", headers={"Accept-Encoding": "br"})
    assert answer.data == b"letters"
    assert "Content-Encoding" not in answer.headers
    assert "Vary" not in answer.headers
    for beyond in ("missing.js", "../secret.js", "%2e%2e/secret.js"):
        answer = client.get(f"/assets/{beyond}", headers={"Accept-Encoding": "gzip"})
        assert answer.data != b"no asset"


def test_an_answer_says_which_build_its_pages_are(client: FlaskClient) -> None:
    """So that a page that was open while the program was updated can tell."""
    page = client.get("/").text
    build = client.get("/api/v1/jobs").headers["X-Build"]
    if build:
        assert f'content="{build}"' in page
        assert "BUILD-OF-THIS-PAGE" not in page
