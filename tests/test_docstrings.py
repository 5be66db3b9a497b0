"""The examples in docstrings are true."""

import doctest
from importlib import import_module, resources
from pathlib import Path

import pytest

SOURCE = Path(str(resources.files("spare_margin")))
WITH_EXAMPLES = sorted(
    ".".join(("spare_margin", *path.relative_to(SOURCE).with_suffix("").parts))
    for path in SOURCE.rglob("*.py")
    if ">>> " in path.read_text("utf-8")
)


def test_there_are_examples() -> None:
    assert len(WITH_EXAMPLES) > 40


@pytest.mark.parametrize("module", WITH_EXAMPLES)
def test_the_examples_of(module: str) -> None:
    tried = doctest.testmod(import_module(module))
    assert tried.attempted > 0
    assert tried.failed == 0
