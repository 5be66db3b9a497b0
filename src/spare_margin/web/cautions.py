"""Which cautions belong to what is on screen."""

from spare_margin.core.jobs import Stage
from spare_margin.core.pieces import Craft

from .models import Caution

FIRST_START = [
    "This tool supports competent people. The code in force where the craft is used, the maker's "
    "instructions and licensed practice come first.",
    "Out of bounds: airbags and belt tensioners, orange high-voltage cables, and anything on 110 or "
    "230 V. Trained and licensed people only.",
]
HIGH_CURRENT_A = 40.0


def cautions(
    craft: Craft, run_current_a: float, stage: Stage, burning: bool, testing: bool = False
) -> list[Caution]:
    """The cautions for a run sheet, the most pressing first."""
    out = []
    if burning:
        out.append(
            Caution(
                when="Hot joint", says="Do not touch. Switch off. It is a fire hazard until remade."
            )
        )
    if run_current_a >= HIGH_CURRENT_A:
        out.append(
            Caution(
                when="High current",
                says="Keep clear of fans, belts, propellers and winch wire. Clips and long leads; brake "
                "on, out of gear, a helper at the controls.",
            )
        )
    if testing:
        out.append(
            Caution(
                when="Load testers",
                says="Hot within seconds. Hold only as long as the reading takes.",
            )
        )
    if any(source.battery == "lithium" for source in craft.sources):
        out.append(
            Caution(
                when="Lithium battery",
                says="Never bypass the management unit. Short-circuit currents are far higher: mind "
                "the fuse's class and breaking capacity.",
            )
        )
    if any(load.duty == "control_supply" for load in craft.loads):
        out.append(
            Caution(
                when="Control units and sensors",
                says="Only a high-impedance meter. No test lamp or load on their lines; never feed "
                "battery voltage into them.",
            )
        )
    if stage == "planned":
        out.append(
            Caution(
                when="Before unbolting a feed",
                says="Take the battery's return off first and put it back last: an unfused feed shorted "
                "by a spanner burns and welds.",
            )
        )
    out.append(
        Caution(
            when="At the battery",
            says="Eye protection, no sparks or flames, ventilate: charging gas explodes. Rings and "
            "watch straps off.",
        )
    )
    if craft.kind == "boat":
        out.append(
            Caution(
                when="Petrol or gas aboard",
                says="Ventilate before switching anything; ignition-protected parts only.",
            )
        )
    if stage == "as_left":
        out.append(
            Caution(
                when="After the work",
                says="Seals and boots back, cables clipped and clear of edges, fuse labelled, no raised "
                "fuse.",
            )
        )
    out.append(
        Caution(
            when="Limits and ampacities",
            says="Typical values. The code in force where the craft is used comes first.",
        )
    )
    return out
