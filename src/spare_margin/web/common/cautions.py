"""Cautions, for the API."""

from collections.abc import Iterable

from spare_margin.core.walk.cautions import CautionId
from spare_margin.wording.measured.cautions import CAUTIONS

from .models import Caution


def shown(found: Iterable[CautionId]) -> list[Caution]:
    """These cautions in words."""
    return [Caution(id=key, when=CAUTIONS[key][0], says=CAUTIONS[key][1]) for key in found]
