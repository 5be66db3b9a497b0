"""What pydantic finds wrong, in plain words: the trouble, and what would be accepted."""

import json
from typing import Any

from pydantic import ValidationError

from spare_margin.core.errors import JobError
from spare_margin.core.model.values import FORMS

_SAYINGS = {
    "missing": ("is missing", ""),
    "value_error": ("{error}", ""),
    "unexpected_keyword_argument": ("is not a key that belongs here", ""),
    "extra_forbidden": ("is not a key that belongs here", ""),
    "float_type": ("{given} is not a number", "a number"),
    "int_type": ("{given} is not a number", "a number"),
    "float_parsing": ("{given} is not a number", "a number"),
    "int_parsing": ("{given} is not a number", "a number"),
    "finite_number": ("{given} is not a number", "a number"),
    "string_type": ("{given} is not text", "text"),
    "bool_type": ("{given} is neither true nor false", "true or false"),
    "greater_than": ("{given} is too small", "above {gt:g}"),
    "greater_than_equal": ("{given} is too small", "{ge:g} or more"),
    "less_than_equal": ("{given} is too large", "up to {le:g}"),
    "literal_error": ("{given} is unknown", "{expected}"),
    "union_tag_invalid": ("the kind {tag} is unknown", "{expected_tags}"),
    "union_tag_not_found": ("has no kind", "a kind, as conductor or load"),
    "string_pattern_mismatch": ("{given} does not fit", "{accepted}"),
    "string_too_long": ("is too long", "up to {max_length} characters"),
    "string_too_short": ("is empty", "some text"),
    "too_long": ("has {actual_length} entries", "at most {max_length}"),
    "too_short": ("has {actual_length} entries", "at least {min_length}"),
    "list_type": ("{given} is not a list", "a list"),
    "tuple_type": ("{given} is not a list", "a list"),
    "frozen_set_type": ("{given} is not a list", "a list"),
    "mapping_type": ("{given} is not an object", "an object"),
    "dataclass_type": ("{given} is not an object", "an object"),
    "dict_type": ("{given} is not an object", "an object"),
    "json_invalid": ("{given} is not JSON", "JSON"),
    "model_type": ("{given} is not an object", "an object"),
    "model_attributes_type": ("{given} is not an object", "an object"),
}
"""What is wrong and what is accepted, by pydantic's type of error."""
_FORMS = {form.pattern: form.says for form in FORMS}


def plain_words(error: Any) -> tuple[str, str]:
    """A pydantic error as (what is wrong, what is accepted), in plain words."""
    message = error["msg"][0].lower() + error["msg"][1:]
    problem, accepted = _SAYINGS.get(error["type"], (message, ""))
    context = dict(error.get("ctx") or {})
    context["accepted"] = _FORMS.get(str(context.get("pattern")), "")
    words = {"given": _short(error.get("input")), **context}
    if error["type"] not in _SAYINGS:
        return problem, accepted
    return problem.format(**words), accepted.format(**words)


def _short(given: Any) -> str:
    text = json.dumps(given, default=str) if not isinstance(given, str) else given
    return text if len(text) <= 40 else f"{text[:37]}..."


def plain_errors(invalid: ValidationError, document: dict[str, Any]) -> list[JobError]:
    """Everything wrong with a document, each with its path as elements[3].length_m."""
    return [
        JobError(_path_in(e["loc"], document), *plain_words(e))
        for e in invalid.errors(include_url=False)[:50]
    ]


def _path_in(loc: tuple[int | str, ...], document: Any) -> str:
    """A pydantic location as elements[3].length_m, without the names of union branches."""
    out, here = "", document
    for part in loc:
        if isinstance(part, int):
            out += f"[{part}]"
            here = here[part] if isinstance(here, list) and part < len(here) else None
            continue
        if isinstance(here, dict) and part == here.get("kind") and part not in here:
            continue
        if part == "[key]":
            continue
        out += f".{part}" if out else part
        here = here.get(part) if isinstance(here, dict) else None
    return out
