"""What is published is what the code does; that the contracts are current is held by `make check`."""

import importlib.util
import json
import re
from pathlib import Path

from openapi_spec_validator import OpenAPIV31SpecValidator

ROOT = Path(__file__).parents[3]
OPENAPI = ROOT / "src" / "spare_margin" / "web" / "openapi.json"


def script(name: str):  # type: ignore[no-untyped-def]
    spec = importlib.util.spec_from_file_location(name, ROOT / "scripts" / f"{name}.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_the_document_is_openapi_3_1() -> None:
    document = json.loads(OPENAPI.read_text("utf-8"))
    assert document["openapi"].startswith("3.1")
    for path, methods in document["paths"].items():
        assert path.startswith("/api/v1/")
        for method in methods.values():
            assert method["summary"]


def test_the_dependencies_are_listed_as_they_are_locked() -> None:
    listed = (ROOT / "docs" / "dependencies.md").read_text("utf-8").lower().replace("_", "-")
    lock = (ROOT / "requirements" / "app.txt").read_text("utf-8").lower().replace("_", "-")
    for name, version in re.findall(r"^([a-z0-9.-]+)==(\S+)", lock, re.M):
        assert f"| {name} | {version} |" in listed, "run `make dependencies`"


def test_the_document_is_valid_openapi() -> None:
    document = json.loads(OPENAPI.read_text("utf-8"))
    assert list(OpenAPIV31SpecValidator(document).iter_errors()) == []


def test_the_demo_readings_are_what_the_networks_show() -> None:
    writer = script("write_demo")
    for name in writer.PASSES:
        kept = json.loads((writer.DEMO / f"{name}.json").read_text("utf-8"))
        assert writer.with_readings(name, kept) == kept, "run `make demo-data`"
    kept = json.loads((writer.DEMO / "4-barge-orrin.json").read_text("utf-8"))
    assert writer.whole_craft() == kept, "run `make demo-data`"
    kept = json.loads((writer.DEMO / "5-trailer-siskin.json").read_text("utf-8"))
    assert writer.trailer() == kept, "run `make demo-data`"
