"""What a text may hold: nothing that cannot be seen."""

import unicodedata

BIDI = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that turn what follows round: a name must read as it is kept."""


def seen_text(text: str) -> str:
    """The text itself. ValueError where it holds what cannot be seen: control characters, bidi overrides.

    >>> seen_text("Pin, grün")
    'Pin, grün'
    """
    for c in text:
        if c in BIDI or (unicodedata.category(c) == "Cc" and c not in "\n\t"):
            raise ValueError("holds a character that cannot be seen")
    return text
