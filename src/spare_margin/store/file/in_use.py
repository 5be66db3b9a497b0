"""One program serves a database at a time; another one is told where that is."""

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from filelock import FileLock, Timeout

from spare_margin.store.file.database import DatabaseError


class InUse(DatabaseError):
    """A program serves this database already; `address` is where, if it said so."""

    def __init__(self, database: Path, address: str) -> None:
        where = f" at {address}" if address else ""
        super().__init__(f"Another Spare Margin has the database {database} open{where}.")
        self.address = address


@contextmanager
def held(database: Path, address: str = "") -> Iterator[None]:
    """Hold a database, so that no other program serves or replaces it meanwhile. Raises InUse."""
    beside = database.with_name(f"{database.name}.address")
    lock = FileLock(database.with_name(f"{database.name}.lock"))
    try:
        database.parent.mkdir(parents=True, exist_ok=True)
        lock.acquire(timeout=0)
    except Timeout:
        said = ""
        with suppress(OSError):
            said = beside.read_text(encoding="utf-8")
        raise InUse(database, said) from None
    except OSError as trouble:
        raise DatabaseError(f"The database {database} cannot be held: {trouble}.") from None
    try:
        with suppress(OSError):
            beside.write_text(address, encoding="utf-8")
        yield
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
        lock.release()
