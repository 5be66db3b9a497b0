"""The examples in docstrings are true; the core names every argument."""

import ast
import doctest
import re
from collections.abc import Iterator
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


def arguments_left_out(path: Path) -> list[str]:
    """Arguments of a module's public functions that their docstrings (of a class: its own) do not name."""

    def functions(node: ast.Module | ast.ClassDef) -> Iterator[tuple[str, str, ast.FunctionDef]]:
        own = ast.get_docstring(node) or ""
        for each in node.body:
            if isinstance(each, ast.ClassDef) and not each.name.startswith("_"):
                yield from functions(each)
            elif isinstance(each, ast.FunctionDef) and each.name == "__init__":
                yield f"{node.name if isinstance(node, ast.ClassDef) else ''}()", own, each
            elif isinstance(each, ast.FunctionDef) and not each.name.startswith("_"):
                yield each.name, ast.get_docstring(each) or "", each

    out = []
    for name, said, function in functions(ast.parse(path.read_text("utf-8"))):
        given = (*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs)
        out += [
            f"{name}: {a.arg}" for a in given
            if a.arg not in ("self", "cls", "_") and not re.search(rf"\b{a.arg}\b", said)
        ]  # fmt: skip
    return out


@pytest.mark.parametrize("path", sorted((SOURCE / "core").rglob("*.py")), ids=lambda p: p.stem)
def test_the_core_names_every_argument(path: Path) -> None:
    assert arguments_left_out(path) == []
