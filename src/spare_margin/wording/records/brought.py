"""A job file of a job that is here already, in words."""

from collections.abc import Mapping

COUNTED: Mapping[str, tuple[str, str]] = {
    "revisions": ("change of the wiring", "changes of the wiring"),
    "readings": ("reading", "readings"),
    "moments": ("moment", "moments"),
    "trials": ("trial", "trials"),
    "notes": ("note", "notes"),
    "sign_offs": ("signature", "signatures"),
    "logs": ("meter log", "meter logs"),
    "photographs": ("photograph", "photographs"),
}


def known_words(title: str, relation: str, adds: Mapping[str, int]) -> str:
    """How a file stands to the job here, and what only the file has."""
    parts = [f"{n} {COUNTED[key][n != 1]}" for key, n in adds.items()]
    more = " and ".join([", ".join(parts[:-1]), parts[-1]] if len(parts) > 1 else parts)
    match relation:
        case "same":
            return f"{title} is already here and the file is identical."
        case "newer":
            return f"{title} is here already. The file is newer: it adds {more}."
        case "older":
            return f"{title} is here already, and has more than the file."
    only = f" The file also has {more}." if more else ""
    return f"{title} is already here, and both have changed since.{only}"
