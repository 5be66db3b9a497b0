"""What a meter shows, as the API says it."""

from spare_margin.core.live.samples import Sample
from spare_margin.core.live.steady import Standing
from spare_margin.instruments.watched import Shown
from spare_margin.service.live.room import MeterRoom, as_typed
from spare_margin.web.meters.models import MeterShown
from spare_margin.wording.language.figures import amperes, ohms, volts
from spare_margin.wording.measured.meters import OVER_RANGE, state_words

WORDS = {"volts": volts, "amperes": amperes, "ohms": ohms}


def shows_words(sample: Sample | None) -> str:
    """What a meter shows, in words; empty where it is not understood."""
    if sample is None:
        return ""
    if sample.value is None:
        return OVER_RANGE
    mode = " AC" if sample.mode == "ac" else ""
    return f"{WORDS[sample.quantity](sample.value)}{mode}"


def _stands(standing: Standing | None) -> str:
    return "" if standing is None else typed_of(standing)


def typed_of(standing: Standing) -> str:
    """A figure that stands still, as one would type it."""
    return as_typed(standing.value, standing.last.step, standing.last.quantity)


def shown_out(room: MeterRoom, meter_id: str, shown: Shown) -> MeterShown:
    """What a meter shows, as it is sent."""
    sample, standing = shown.sample, shown.standing
    offered = shown.offered and standing is not None
    return MeterShown(
        meter=meter_id,
        number=shown.number,
        state=shown.state,
        says=state_words(shown.state, shown.wrong, shown.seen),
        who=shown.who,
        value=None if sample is None else sample.value,
        step=0.0 if sample is None else sample.step,
        quantity="volts" if sample is None else sample.quantity,
        mode="" if sample is None else sample.mode,
        range_to=None if sample is None else sample.range_to,
        taken_at=shown.taken_at,
        hands=shown.hands,
        offered=room.figure(meter_id, standing) if offered and standing else None,
        stands_at=_stands(standing),
    )
