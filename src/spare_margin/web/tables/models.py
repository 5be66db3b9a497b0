"""What the API takes and gives of the tables and the settings."""

from typing import Annotated, Literal

from pydantic import Field, RootModel

from spare_margin.service.workshop.own_rows import OwnRow, RowsChange
from spare_margin.web.common.figures import Ohms
from spare_margin.web.common.models import Model, as_told


class ShelfColumn(Model):
    """A column: its key in CSV, its head, whether it is a number, what it may be."""

    key: str
    head: str
    number: bool
    wanted: bool
    choices: list[str]


class ShelfRow(Model):
    """A row. `key` names it; `own` is the workshop's, `instead` where it stands in for a shipped one."""

    key: str
    cells: dict[str, str]
    own: bool
    instead: bool


class TableOfRows(Model):
    """One table, its rows in the order they are offered."""

    id: str
    name: str
    says: str
    columns: list[ShelfColumn]
    key: list[str]
    rows: list[ShelfRow]


class TablesOut(Model):
    """Every table."""

    tables: list[TableOfRows]


as_told(OwnRow)
as_told(RowsChange)


class KeepRows(RootModel[RowsChange]):
    """Own rows to keep, and keys of own rows to take off."""


class KeptRows(Model):
    """The table as it then is, and what undoes it: rows as they were, keys that are new."""

    table: TableOfRows
    kept: tuple[str, ...]
    undo: RowsChange


class LearnedOut(Model):
    """What accepted readings say of one kind of piece; `row` may be taken into the tables (null: too few).

    `held` is what the tables say now; `taken` whether that is it already.
    """

    kind: str
    name: str
    style: str
    place: str
    count: int
    jobs: int
    low: Ohms
    median: Ohms
    high: Ohms
    spread: str
    held: str
    offered: str
    row: dict[str, str] | None
    taken: bool


class Culprit(Model):
    """What was found at fault, in how many jobs."""

    name: str
    place: str
    jobs: int


class LearnedTable(Model):
    """Everything this workshop's accepted readings say."""

    pieces: list[LearnedOut]
    spreads: list[LearnedOut]
    culprits: list[Culprit]


class TypicalRun(Model):
    """A run to start from."""

    name: str
    line: str
    source: str


class TypicalRuns(Model):
    """Runs to start from."""

    runs: list[TypicalRun]


class Settings(Model):
    """The workshop's units and words; see exchange.units for what each does."""

    workshop: Annotated[str, Field(max_length=120)] = ""
    length: Literal["m", "ft"] = "m"
    size: Literal["mm2", "awg"] = "mm2"
    temperature: Literal["C", "F"] = "C"
    volts: Literal["V", "mV"] = "V"
    comma: Literal["yes", "no"] = "no"
    back_word: Literal["return", "ground", "earth", "negative"] = "return"
    meter: Annotated[str, Field(max_length=200)] = "Workshop multimeter"
    feed_colour: Annotated[str, Field(max_length=40)] = ""
    return_colour: Annotated[str, Field(max_length=40)] = ""
    currency: Annotated[str, Field(max_length=8)] = ""
    prices_of: Annotated[str, Field(max_length=40)] = ""
    hour_price: Annotated[str, Field(max_length=12)] = ""
    reel: Annotated[str, Field(max_length=12)] = ""
    paper: Literal["a4", "letter"] = "a4"


class SettingsChange(Model):
    """Some of the settings; those that are not given stay as they are."""

    workshop: Annotated[str, Field(max_length=120)] | None = None
    length: Literal["m", "ft"] | None = None
    size: Literal["mm2", "awg"] | None = None
    temperature: Literal["C", "F"] | None = None
    volts: Literal["V", "mV"] | None = None
    comma: Literal["yes", "no"] | None = None
    back_word: Literal["return", "ground", "earth", "negative"] | None = None
    meter: Annotated[str, Field(max_length=200)] | None = None
    feed_colour: Annotated[str, Field(max_length=40)] | None = None
    return_colour: Annotated[str, Field(max_length=40)] | None = None
    currency: Annotated[str, Field(max_length=8)] | None = None
    prices_of: Annotated[str, Field(max_length=40)] | None = None
    hour_price: Annotated[str, Field(max_length=12)] | None = None
    reel: Annotated[str, Field(max_length=12)] | None = None
    paper: Literal["a4", "letter"] | None = None


class SettingsOut(Settings):
    """The settings, and the meters there are to choose from."""

    meters: list[str]
