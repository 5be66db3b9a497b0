"""A job in one file: as JSON, or with its photographs as a zip.

job.json               the job file
photographs/<id>.jpg   the picture of each photograph that it names
"""

import io
import os
import zlib
from collections.abc import Iterable
from typing import IO
from zipfile import ZIP_DEFLATED, ZIP_STORED, BadZipFile, ZipFile, ZipInfo

from spare_margin.core.errors import JobError
from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS
from spare_margin.exchange.job_file.job_file import MOST_BYTES as MOST_JOB_BYTES
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob
from spare_margin.exchange.pictures import MOST_BYTES as MOST_PICTURE_BYTES
from spare_margin.exchange.pictures import Picture, prepared

MOST_BYTES = 200_000_000
MOST_DIRECTORY_BYTES = 100_000
"""What a zip says of the files in it: some 130 bytes each."""
JOB = "job.json"
ZIP_BEGINS, ZIP_ENDS, ZIP_64 = b"PK\x03\x04", b"PK\x05\x06", b"PK\x06\x07"
END_BYTES, ZIP_64_BYTES = 22, 20
"""How long the end of a zip is, and what stands before it in a very large one (APPNOTE 4.3.15, 4.3.16)."""
DAMAGED = JobError("", "the zip cannot be read", "a job as this program saved it")


class Container:
    """A job file that was opened: its `text`, and the picture of each photograph.

    JobFileErrors where it cannot be read. What it reads is bounded, whatever the zip says of itself.
    """

    def __init__(self, file: IO[bytes]) -> None:
        begins = file.read(len(ZIP_BEGINS))
        file.seek(0)
        self._zip: ZipFile | None = None
        _bounded(file, MOST_BYTES if begins == ZIP_BEGINS else MOST_JOB_BYTES)
        if begins != ZIP_BEGINS:
            self.text = file.read()
            return
        _few_names(file)
        try:
            self._zip = ZipFile(file)
        except (BadZipFile, OSError, ValueError):
            raise JobFileErrors([DAMAGED]) from None
        self.text = self._read(JOB, MOST_JOB_BYTES)

    def check(self, read: ReadJob) -> None:
        """Look whether each photograph has its picture, and nothing else is there. JobFileErrors."""
        named = {_name(p.id): i for i, p in enumerate(read.photographs)}
        held = [] if self._zip is None else self._zip.namelist()
        errors = [
            JobError(
                f"photographs[{i}].id", f"{name} is not in the file", "the job as a zip, with it"
            )
            for name, i in named.items()
            if name not in held
        ]
        errors += [
            JobError("", f"the zip holds {name[:80]}, which the job does not name", "nothing else")
            for i, name in enumerate(held)
            if name not in {JOB, *named} or name in held[:i]
        ]
        if errors:
            raise JobFileErrors(errors)

    def picture(self, read: ReadJob, number: int) -> Picture:
        """The picture of a job's `number`-th photograph. JobFileErrors where it is none."""
        raw = self._read(_name(read.photographs[number].id), MOST_PICTURE_BYTES)
        try:
            return prepared(raw, f"photographs[{number}]")
        except JobError as wrong:
            raise JobFileErrors([wrong]) from None

    def _read(self, name: str, most: int) -> bytes:
        if self._zip is None:
            raise JobFileErrors([DAMAGED])
        try:
            with self._zip.open(name) as file:
                raw = file.read(most + 1)
        except KeyError:
            raise JobFileErrors([JobError("", f"the zip has no {name}", JOB)]) from None
        except (BadZipFile, OSError, RuntimeError, EOFError, ValueError, zlib.error):
            raise JobFileErrors([DAMAGED]) from None
        if len(raw) > most:
            problem = f"{name} is above {most / 1e6:.0f} MB"
            raise JobFileErrors([JobError("", problem, f"up to {most / 1e6:.0f} MB")])
        return raw


def opened(raw: bytes) -> Container:
    """A job file that is held in memory."""
    return Container(io.BytesIO(raw))


def write_container(file: IO[bytes], text: str, pictures: Iterable[tuple[str, bytes]]) -> None:
    """Write a job with its pictures (id, JPEG) as a zip; the same job gives the same bytes."""
    with ZipFile(file, "w") as out:
        _write(out, JOB, text.encode(), ZIP_DEFLATED)
        for photograph, picture in pictures:
            _write(out, _name(photograph), picture, ZIP_STORED)


def _write(out: ZipFile, name: str, content: bytes, method: int) -> None:
    # Of no time and no machine.
    entry = ZipInfo(name)
    entry.compress_type = method
    entry.external_attr = 0o644 << 16
    out.writestr(entry, content)


def _name(photograph: str) -> str:
    return f"photographs/{photograph}.jpg"


def _bounded(file: IO[bytes], most: int) -> None:
    size = file.seek(0, os.SEEK_END)
    file.seek(0)
    if size > most:
        problem = JobError("", f"the file is {size / 1e6:.0f} MB", f"up to {most / 1e6:.0f} MB")
        raise JobFileErrors([problem])


def _few_names(file: IO[bytes]) -> None:
    """Look at how much there is to be listed before anything is: each name takes memory."""
    size = file.seek(0, os.SEEK_END)
    file.seek(max(0, size - END_BYTES - ZIP_64_BYTES))
    end = file.read()
    last = end[-END_BYTES:]
    file.seek(0)
    if last[:4] != ZIP_ENDS or end.startswith(ZIP_64):
        raise JobFileErrors([DAMAGED])
    directory = int.from_bytes(last[12:16], "little")
    if directory > MOST_DIRECTORY_BYTES:
        problem = JobError("", "the zip holds too many files", f"up to {MOST_PHOTOGRAPHS + 1}")
        raise JobFileErrors([problem])
