"""Small changes of a piece or a run: what each would be, and of what."""

from spare_margin.core.model.pieces import Size
from spare_margin.wording.craft.pieces import size_name
from spare_margin.wording.language.figures import ohms
from spare_margin.wording.language.units import celsius, in_use, number

Words = tuple[str, str]
"""What the change is, and from what to what."""


def all_thicker() -> Words:
    """Every wire of a run a size up."""
    return "all its wires a size up", "every wire that this run passes"


def warmer(by_k: float, ambient_c: float) -> Words:
    """Warmer air, by so many kelvin, to this."""
    fahrenheit = in_use().temperature == "F"
    unit = celsius(0.0)[-2:]
    more = by_k * 9 / 5 if fahrenheit else by_k
    return f"+{number(more)}\u00a0{unit}", f"air at {celsius(ambient_c)}"


def one_more_joint(ohm: float | None, behind: bool) -> Words:
    """A splice of these ohms, behind the piece or in the run."""
    new = "" if ohm is None else ohms(ohm)
    return "one more joint", f"a splice of {new}" + ", behind it" * behind


def as_new(ohm: float) -> Words:
    """A fixed piece as good as new."""
    return "as good as new", ohms(ohm)


def aged(ohm: float) -> Words:
    """A fixed piece aged to its limit."""
    return "aged to its limit", ohms(ohm)


def another_size(old: Size, new: Size, bigger: bool) -> Words:
    """A wire a size up or down."""
    what = "one size up" if bigger else "one size down"
    return what, f"{size_name(old)} \u2192 {size_name(new)}"
