"""The API's own description, made whole: what the framework leaves out of it, or says otherwise."""

from typing import Any

from spare_margin.web.common.models import Problem

Document = dict[str, Any]
BINARY = {"type": "string", "format": "binary"}
FILES: dict[str, tuple[str, Document]] = {
    "/api/v1/jobs/{job}/file": ("application/json", {"type": "object"}),
    "/api/v1/jobs/{job}/readings.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/order.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/proof.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/run-table/csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/lists/wires.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/lists/buying.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/lists/labels.csv": ("text/csv", {"type": "string"}),
    "/api/v1/jobs/{job}/lists/labels.pdf": ("application/pdf", BINARY),
    "/api/v1/jobs/{job}/lists/quote.pdf": ("application/pdf", BINARY),
    "/api/v1/jobs/{job}/hand-over.pdf": ("application/pdf", BINARY),
    "/api/v1/job-file-schema": ("application/json", {"type": "object"}),
    "/api/v1/tables/{table}/csv": ("text/csv", {"type": "string"}),
}
"""What is given as a file: its kind, and what it is."""
BODIES: dict[str, tuple[str, Document]] = {
    "/api/v1/jobs": ("application/json", {"type": "object"}),
    "/api/v1/jobs/preview": ("application/json", {"type": "object"}),
    "/api/v1/jobs/{job}/logs": ("text/csv", {"type": "string"}),
    "/api/v1/tables/{table}/csv": ("text/csv", {"type": "string"}),
}
"""What is taken as it is."""


def described(document: Document) -> Document:
    """The framework's document, with every answer in it: files, errors as problem documents."""
    components = {k: v for k, v in document["components"].items() if v is not None}
    components["schemas"] = {**components["schemas"], "Problem": _schema(components)}
    problems = {
        "description": "Refused, or it could not be done: what was wrong, and what is accepted.",
        "content": {
            "application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}
        },
    }
    paths: Document = {}
    for path, methods in document["paths"].items():
        paths[path] = {}
        for method, said in methods.items():
            answers = {code: a for code, a in said["responses"].items() if code.startswith("2")}
            if method == "get" and path in FILES:
                answers["200"] = _one("The file.", *FILES[path])
            operation = {**said, "responses": {**answers, "4XX": problems, "5XX": problems}}
            if method == "post" and path in BODIES:
                kind, schema = BODIES[path]
                operation["requestBody"] = {"required": True, "content": {kind: {"schema": schema}}}
            paths[path][method] = operation
    return {**document, "paths": paths, "components": components}


def _schema(components: Document) -> Document:
    known: Document = components["schemas"].get("Problem") or Problem.model_json_schema(
        ref_template="#/components/schemas/{model}"
    )
    return known


def _one(says: str, kind: str, schema: Document) -> Document:
    return {"description": says, "content": {kind: {"schema": schema}}}
