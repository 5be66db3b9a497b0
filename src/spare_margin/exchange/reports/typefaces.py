"""The typefaces of a report: embedded, with one for names in Chinese, Japanese and Korean.

Text from right to left is put in the order in which it is drawn, its letters joined, before it is set.
"""

import re
import unicodedata
from functools import cache
from html import escape
from importlib import resources
from itertools import groupby

import arabic_reshaper
from bidi import get_display
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

PLAIN, BOLD, FAR_EAST = "Report", "Report-Bold", "Report-FarEast"
FILES = {
    PLAIN: "DejaVuSans.ttf",
    BOLD: "DejaVuSans-Bold.ttf",
    FAR_EAST: "DroidSansFallback.ttf",
}
RIGHT_TO_LEFT = re.compile("[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufeff]")
NO_GLYPH = "\u25a1"
"""Stands for a character that no typeface here has."""


@cache
def typefaces() -> dict[str, TTFont]:
    """The typefaces by name, made known to the setter once."""
    made: dict[str, TTFont] = {}
    folder = resources.files("spare_margin.data") / "fonts"
    for name, file in FILES.items():
        with resources.as_file(folder / file) as path:
            made[name] = TTFont(name, str(path))
            pdfmetrics.registerFont(made[name])
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=BOLD, italic=PLAIN, boldItalic=BOLD)
    return made


def marked(text: str, limit: int = 600) -> str:
    """Plain text as the setter's markup, each character in a typeface that has it.

    Longer text than `limit` is cut, and shows that it is.

    >>> marked("R < 3")
    'R &lt; 3'
    """
    typefaces()
    plain = " ".join(text.split())
    if len(plain) > limit:
        plain = plain[: limit - 1] + "\u2026"
    if RIGHT_TO_LEFT.search(plain):
        plain = get_display(arabic_reshaper.reshape(plain))
    out = []
    for face, run in groupby(plain, key=_face):
        said = "".join(run)
        if face is None:
            out.append(escape("".join(map(_called, said)), quote=False))
        elif face == PLAIN:
            out.append(escape(said, quote=False))
        else:
            out.append(f'<font name="{face}">{escape(said, quote=False)}</font>')
    return "".join(out)


def _called(character: str) -> str:
    """A character that no typeface here has, by its name; nothing for one that only joins others.

    >>> _called("\\N{FIRE}"), _called("\\N{ZERO WIDTH JOINER}")
    ('[fire]', '')
    """
    if unicodedata.category(character) in ("Cf", "Mn", "Me"):
        return ""
    return f"[{unicodedata.name(character, NO_GLYPH).lower()}]"


def _face(character: str) -> str | None:
    """The typeface that has a character; None where none has."""
    for name in (PLAIN, FAR_EAST):
        if ord(character) in typefaces()[name].face.charToGlyph:
            return name
    return PLAIN if character.isspace() else None
