"""An area of the API: its addresses under one head."""

import os

from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.web.common.models import Problem

DESCRIBING = "SPARE_MARGIN_DESCRIBING"
"""In the environment while the API's description is made, which takes a second: it is made once, by
`make contracts`, and shipped; the program that serves does not make it again at every start."""


def area(name: str, module: str, prefix: str, title: str) -> APIBlueprint:
    """A blueprint whose addresses begin with `prefix`; `title` heads them in the description."""
    return APIBlueprint(
        name,
        module,
        url_prefix=prefix,
        abp_tags=[Tag(name=title)],
        abp_responses={"4XX": Problem},
        doc_ui=DESCRIBING in os.environ,
    )
