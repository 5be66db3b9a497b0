"""What the API takes and gives of a source check. Numbers are SI."""

from spare_margin.core.measure.source_check import State
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Battery
from spare_margin.core.model.values import AsTyped
from spare_margin.service.job.source_checking import SourceReadTyped
from spare_margin.web.common.figures import Amperes, Ohms, Share, Volts
from spare_margin.web.common.models import Model, NamedChoice, as_told
from spare_margin.wording.measured.cautions import Caution


class SourceFinding(Model):
    """One thing that the source's readings say."""

    says: str
    do: str
    good: bool | None


as_told(SourceReadTyped)


class KeepSource(Model):
    """Figures to keep of one source, and its kind of battery."""

    source: str
    battery: Battery
    form: SourceReadTyped


class GiveModel(Model):
    """An internal resistance, as typed, that the model of a source is to use."""

    source: str
    internal: AsTyped


class SourceCheck(Model):
    """A source, what was read at it, and what that says."""

    source: str
    name: str
    title: str
    sources: list[NamedChoice]
    battery: Battery
    nominal_v: float
    live: str
    back: str
    form: SourceReadTyped
    state: State
    state_says: str
    charge: Share | None
    internal_ohm: Ohms | None
    offer: str
    model_ohm: Ohms
    clamps_ohm: Ohms | None
    load_test_a: Amperes | None
    least_v: Volts | None
    findings: list[SourceFinding]
    stage: Stage
    revision: str
    cautions: tuple[Caution, ...]


class SourceQuery(Model):
    """Which source."""

    source: str | None = None
