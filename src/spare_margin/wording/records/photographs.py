"""What a photograph shows, in words."""

from collections.abc import Mapping, Sequence

from spare_margin.core.model.jobs import MeasuredStage, Reading
from spare_margin.core.model.photographs import Photograph
from spare_margin.core.model.pieces import Craft
from spare_margin.wording.craft.pieces import piece_name, point_name

STAGES: Mapping[MeasuredStage, str] = {"as_found": "Before", "as_left": "After"}
JOB, STEP, GONE = "The job", "Work order", "No longer drawn"


def subject_words(
    photograph: Photograph, crafts: Sequence[Craft], readings: Mapping[str, Reading]
) -> str:
    """What a photograph is of, which is looked for in one of `crafts` after the other."""
    about = photograph.about
    if photograph.part:
        return _part(photograph.part, crafts)
    match photograph.subject:
        case "job":
            return JOB
        case "point":
            return _point(about, crafts)
        case "reading":
            read = readings.get(about)
            if read is None:
                return GONE
            return f"{_point(read.red, crafts)} → {_point(read.black, crafts)}: {read.typed}"
        case _:
            return STEP


def _point(key: str, crafts: Sequence[Craft]) -> str:
    craft = next((c for c in crafts if any(p.id == key for p in c.points)), None)
    return GONE if craft is None else point_name(craft, key)


def _part(key: str, crafts: Sequence[Craft]) -> str:
    for craft in crafts:
        names = {p.id: piece_name(p) for p in craft.pieces}
        names |= {x.id: x.name or x.id for x in craft.loads}
        names |= {s.id: s.name or s.id for s in craft.sources}
        if key in names:
            return names[key]
    return GONE
