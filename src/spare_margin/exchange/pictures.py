"""Pictures in: what a camera or a phone makes, turned upright, scaled, without what else its file says."""

import io
from dataclasses import dataclass

from PIL import Image, ImageCms, ImageOps

from spare_margin.core.errors import JobError
from spare_margin.core.model.photographs import LARGEST_PX

MOST_BYTES = 30_000_000
MOST_PIXELS = 120_000_000
"""Of a JPEG, which is decoded no finer than it is kept."""
MOST_PIXELS_WHOLE = 40_000_000
"""Of other pictures, which have to be decoded whole: 120 MB in memory."""
SMALL_PX, PAPER_PX = 320, 1000
FORMATS = ("JPEG", "PNG", "WEBP")
JPEGS = ("JPEG", "MPO")
"""A phone's JPEG that holds more than one picture, as of depth or light, is told as another format."""
ACCEPTED = "a picture as JPEG, PNG or WebP"
LARGE_QUALITY, SMALL_QUALITY = 84, 76
END_OF_JPEG = b"\xff\xd9"
# The bounds are our own, below: Pillow's are for who decodes a picture without looking at its size.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture as it is kept: JPEG, at most LARGEST_PX wide and high, and a small one of it."""

    large: bytes
    small: bytes
    width_px: int
    height_px: int


def prepared(raw: bytes, path: str = "picture") -> Picture:
    """A picture as it is kept, of the bytes of a file; one that is as it is kept is left so to the byte.

    Colours are turned to sRGB. JobError, at `path`, for a file that is too large, broken, or no picture.
    """
    if len(raw) > MOST_BYTES:
        size = f"{len(raw) / 1e6:.0f} MB"
        raise JobError(path, f"is {size}", f"up to {MOST_BYTES / 1e6:.0f} MB")
    try:
        with Image.open(io.BytesIO(raw), formats=FORMATS) as opened:
            _bounded(opened, path)
            as_kept = _is_as_kept(opened, raw)
            upright = _upright(opened)
    except (OSError, SyntaxError, ValueError, EOFError, TypeError, IndexError, KeyError):
        # Pillow's readers fail in each of these ways over a file that is cut off or made up.
        raise JobError(path, "cannot be read: broken, or no picture", ACCEPTED) from None
    large = raw if as_kept else _jpeg(upright, LARGE_QUALITY)
    small = upright.copy()
    small.thumbnail((SMALL_PX, SMALL_PX))
    return Picture(large, _jpeg(small, SMALL_QUALITY), *upright.size)


def for_paper(large: bytes) -> bytes:
    """A picture that is kept, as fine as half a page shows it: a sheet of twenty can still be sent."""
    with Image.open(io.BytesIO(large)) as opened:
        opened.draft("RGB", (PAPER_PX, PAPER_PX))
        opened.thumbnail((PAPER_PX, PAPER_PX))
        return _jpeg(opened, LARGE_QUALITY)


def _bounded(opened: Image.Image, path: str) -> None:
    most = MOST_PIXELS if opened.format in JPEGS else MOST_PIXELS_WHOLE
    width, height = opened.size
    if width * height > most:
        millions = f"{width * height / 1e6:.0f} megapixels"
        raise JobError(path, f"has {millions}", f"up to {most / 1e6:.0f}")


def _is_as_kept(opened: Image.Image, raw: bytes) -> bool:
    """Whether a file is just what is kept of it: nothing of place, device or time in it."""
    return (
        opened.format == "JPEG"
        and opened.mode == "RGB"
        and max(opened.size) <= LARGEST_PX
        and [name for name, _ in getattr(opened, "applist", [])] == ["APP0"]
        and "comment" not in opened.info
        and raw.find(END_OF_JPEG) == len(raw) - len(END_OF_JPEG)
    )


def _upright(opened: Image.Image) -> Image.Image:
    """The picture the way up it was taken, scaled, in sRGB, on white where it lets something through."""
    opened.draft("RGB", (LARGEST_PX, LARGEST_PX))
    profile = opened.info.get("icc_profile")
    turned = ImageOps.exif_transpose(opened)
    turned.thumbnail((LARGEST_PX, LARGEST_PX))
    if turned.mode in ("RGBA", "LA", "PA") or "transparency" in turned.info:
        above = turned.convert("RGBA")
        turned = Image.new("RGB", above.size, "white")
        turned.paste(above, mask=above)
    elif profile and turned.mode == "RGB":
        turned = _in_srgb(turned, profile)
    return turned.convert("RGB")


def _in_srgb(picture: Image.Image, profile: bytes) -> Image.Image:
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        made = ImageCms.profileToProfile(picture, own, ImageCms.createProfile("sRGB"))
    except (OSError, ImageCms.PyCMSError):
        # A profile that cannot be read says nothing about the colours.
        return picture
    return picture if made is None else made


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    plain = Image.new("RGB", picture.size)
    # Pillow writes down what the picture's file said besides: a picture of its own says nothing.
    plain.paste(picture)
    plain.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue()
