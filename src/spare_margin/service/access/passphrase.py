"""The workshop's passphrase: four words made up for it, or its own; kept as a memory-hard hash alone."""

import secrets
import sqlite3
from functools import cache
from threading import Lock

from werkzeug.security import check_password_hash, generate_password_hash
from xkcdpass import xkcd_password

from spare_margin.core.errors import JobError
from spare_margin.store.devices import keep_secret, secret

HASH = "scrypt:32768:8:1"
"""N, r, p of scrypt: 32 MB and some 0.1 s a try."""
FEWEST_LETTERS = 12
WORDS = 4
_one_at_a_time = Lock()


@cache
def _list() -> list[str]:
    words: list[str] = xkcd_password.generate_wordlist(
        xkcd_password.locate_wordfile("eff-long"), min_length=3, max_length=7
    )
    return words


def made_up() -> str:
    """Four words at random, of a list of thousands: over 45 bits."""
    return " ".join(secrets.choice(_list()) for _ in range(WORDS))


def plain(said: str) -> str:
    """A passphrase as it is compared: small letters, one blank between words.

    >>> plain("  Copper lug  DRY bilge ")
    'copper lug dry bilge'
    """
    return " ".join(said.lower().split())


def set_passphrase(connection: sqlite3.Connection, said: str) -> None:
    """Change the passphrase. JobError for one that is soon guessed; devices that are paired stay."""
    phrase = plain(said)
    if len(phrase) < FEWEST_LETTERS or len(set(phrase)) < 6:
        raise JobError(
            "passphrase", "is soon guessed", f"{FEWEST_LETTERS} letters or more: four words"
        )
    if len(phrase) > 200:
        raise JobError("passphrase", "is too long", "up to 200 letters")
    keep_secret(connection, "passphrase", generate_password_hash(phrase, HASH))


def has_passphrase(connection: sqlite3.Connection) -> bool:
    """Whether one was set."""
    return secret(connection, "passphrase") is not None


def is_right(connection: sqlite3.Connection, said: str) -> bool:
    """Whether this is the passphrase. As long for a wrong one; one at a time, since each costs 32 MB."""
    kept = secret(connection, "passphrase")
    with _one_at_a_time:
        return check_password_hash(kept or generate_password_hash("", HASH), plain(said)) and bool(
            kept
        )
