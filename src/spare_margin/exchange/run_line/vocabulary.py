"""The words of the run line; see docs/run-line.md."""

from spare_margin.core.model.pieces import Access, Duty, FixedKind, LoadLaw

ACCESS_WORDS: dict[str, Access] = {
    "open": "open", "back-probe": "backprobe", "backprobe": "backprobe", "trim": "trim",
}  # fmt: skip
KIND_WORDS: dict[str, FixedKind] = {
    "joint": "joint", "fuse": "fuse", "breaker": "breaker", "switch": "switch",
    "relay": "relay_contact", "body": "body_return",
    "resistor": "resistor", "unknown": "unknown",
}  # fmt: skip
PLAIN_STYLES: set[tuple[FixedKind, str | None]] = {
    ("joint", "post clamp"), ("joint", "ring on stud"), ("joint", "splice"), ("joint", "pin"),
    ("switch", "panel switch"), ("switch", "isolator"),
}  # fmt: skip
"""Styles that say their kind by themselves."""
TRADE_WORDS: dict[str, str] = {
    "strip fuse": "fuse bolt-down", "battery switch": "isolator", "plug": "pin", "connector": "pin",
    "crimp": "splice", "lug": "ring", "busbar": "ring", "bus": "ring", "bus bar": "ring",
    "ground stud": "ring", "earth stud": "ring", "stud": "ring", "chassis": "body", "hull": "body",
}  # fmt: skip
"""What people call a piece besides, and what it is drawn as; it is called so on the drawing."""
BACK_WORDS = ("earth", "ground", "negative")
"""The way back: the body where it is the return, else the source's return post."""
POST_WORDS = ("battery", "battery +", "battery -", "battery \u2212", "battery post", "post")
"""The source's own post, at either end of a line."""
SHORT_TIME_WORDS = ("windlass", "winch", "thruster", "starter", "capstan")
"""Motors that run for a short time, where nobody says otherwise."""
TWIN = "twin"
UNKNOWN = "?"
"""Stands for a stretch that nobody has drawn, and for what nobody knows of a load."""
WIRE_WORDS = ("wire", "cable", "twin")
LOAD_WORDS: dict[str, LoadLaw | None] = {
    "load": None, "motor": "constant_current", "lamp": "filament",
    "heater": "constant_resistance", "converter": "constant_power",
}  # fmt: skip
DUTY_WORDS: dict[str, Duty] = {
    "control": "control_supply", "charging": "charging", "short-time": "short_time",
}  # fmt: skip
