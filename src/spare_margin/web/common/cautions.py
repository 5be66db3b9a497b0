"""Cautions, for the API."""

from collections.abc import Iterable

from spare_margin.core.walk.cautions import CautionId
from spare_margin.wording.measured.cautions import caution_words

from .models import Caution


def shown(found: Iterable[CautionId]) -> list[Caution]:
    """These cautions in words."""
    worded = ((key, *caution_words(key)) for key in found)
    return [Caution(id=key, when=when, says=says) for key, when, says in worded]
