"""What single values of a job file may be, and what all its parts refuse."""

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from spare_margin.exchange.plain_text import real_time

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_.+-]{1,64}$")]
Text = Annotated[str, Field(max_length=2000)]
Name = Annotated[str, Field(max_length=120)]
Share = Annotated[float, Field(ge=-0.5, le=1.5)]
Dot = Annotated[list[Share], Field(min_length=2, max_length=2)]
Ohm = Annotated[float, Field(ge=0, le=1e6)]
Volts = Annotated[float, Field(gt=0, le=1000)]
Amperes = Annotated[float, Field(gt=0, le=5000)]
Celsius = Annotated[float, Field(ge=-60, le=250)]
Metres = Annotated[float, Field(gt=0, le=1000)]
Moment = Annotated[
    str,
    Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$"),
    AfterValidator(real_time),
]


class FileModel(BaseModel):
    """Unknown keys and numbers in quotes are errors; so are NaN and infinities."""

    model_config = ConfigDict(
        extra="forbid", strict=True, allow_inf_nan=False, populate_by_name=True, frozen=True
    )
