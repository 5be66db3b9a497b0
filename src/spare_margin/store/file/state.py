"""Whether a database was written to since: told by its files, without opening it."""

import os
import time
from pathlib import Path

SETTLED_S = 0.1
"""A file written to less than this ago may be written to again within the same tick of its clock."""
SETTLED_LOG_S = 2.0
"""The same of the log: what another program commits stands in it before it can be seen."""
SETTLED_COARSE_S = 3.0
"""The same where times are kept to whole seconds, or to two, as on FAT."""
SECOND_NS = 1_000_000_000
TIMES_ARE_TRUE = os.name != "nt"
"""Windows may not say that a file was written to before whoever wrote has closed it."""


def file_state(database: Path) -> tuple[int, ...] | None:
    """What stays the same for as long as nobody writes to a database, and never comes again once one did.

    None where that cannot be said: it was written to just now, or is not there, or the system tells too
    late. To be taken before what it stands for is read. The write-ahead log counts where it holds
    anything: who only reads makes an empty one.
    """
    try:
        file, log = _found(database), _found(database.with_name(f"{database.name}-wal"))
    except OSError:
        return None
    if file is None or not TIMES_ARE_TRUE:
        return None
    marks = [(file, max(file.st_mtime_ns, file.st_ctime_ns), SETTLED_S)]
    if log is not None and log.st_size:
        # Who opens it for reading sets its owner anew: only what is written to it counts.
        marks.append((log, log.st_mtime_ns, SETTLED_LOG_S))
    if not all(_settled(*mark) for mark in marks):
        return None
    return tuple(
        figure
        for found, written, _ in marks
        for figure in (found.st_dev, found.st_ino, found.st_size, written)
    )


def _found(path: Path) -> os.stat_result | None:
    try:
        return os.stat(path)
    except FileNotFoundError:
        return None


def _settled(found: os.stat_result, written_ns: int, after_s: float) -> bool:
    coarse = found.st_mtime_ns % SECOND_NS == 0
    ago_ns = time.time_ns() - written_ns
    return ago_ns > (SETTLED_COARSE_S if coarse else after_s) * SECOND_NS
