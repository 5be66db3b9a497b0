"""Pictures as they come from phones and cameras: turned, scaled, stripped; what is none is refused."""

import io
import struct
import zlib
from typing import Any

import pytest
from PIL import Image, ImageCms

from spare_margin.core.errors import JobError
from spare_margin.exchange import pictures
from spare_margin.exchange.pictures import prepared

RED, BLUE = (200, 30, 30), (30, 30, 200)


def halves(width: int, height: int, mode: str = "RGB") -> Image.Image:
    """Red on the left, blue on the right."""
    made = Image.new("RGB", (width, height), RED)
    made.paste(BLUE, (width // 2, 0, width, height))
    return made.convert(mode)


def saved(picture: Image.Image, form: str = "JPEG", **more: Any) -> bytes:
    out = io.BytesIO()
    picture.save(out, form, **more)
    return out.getvalue()


def opened(raw: bytes) -> Image.Image:
    return Image.open(io.BytesIO(raw))


def near(pixel: Any, wanted: tuple[int, int, int]) -> bool:
    return all(abs(a - b) < 12 for a, b in zip(pixel, wanted, strict=True))


def test_a_large_photograph_is_turned_upright_scaled_and_says_nothing_of_where_and_with_what() -> (
    None
):
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its right side: to be turned by a quarter
    exif[0x010F] = "A maker"
    exif.get_ifd(0x8825)[2] = (54.0, 10.0, 0.0)
    raw = saved(halves(4000, 3000), exif=exif, comment=b"somebody")
    made = prepared(raw)
    large = opened(made.large)
    assert (
        (large.format, large.size)
        == ("JPEG", (1536, 2048))
        == ("JPEG", (made.width_px, made.height_px))
    )
    # What was on the left is above now.
    assert near(large.getpixel((768, 100)), RED)
    assert near(large.getpixel((768, 1900)), BLUE)
    assert not large.getexif()
    assert "comment" not in large.info
    assert b"A maker" not in made.large
    small = opened(made.small)
    assert max(small.size) == pictures.SMALL_PX
    assert len(made.small) < 20_000


def test_what_is_as_it_is_kept_stays_the_same_to_the_byte() -> None:
    made = prepared(saved(halves(4000, 3000)))
    again = prepared(made.large)
    assert (again.large, again.small) == (made.large, made.small)


@pytest.mark.parametrize("hidden", [b"after the end", b"and again an end\xff\xd9", b""])
def test_what_hides_behind_or_beside_a_picture_is_dropped(hidden: bytes) -> None:
    kept = prepared(saved(halves(60, 40))).large
    # A segment that belongs to nobody (APP9), before the rest; or bytes after the picture's end.
    segment = b"\xff\xe9" + struct.pack(">H", 2 + 6) + b"secret"
    raw = kept + hidden if hidden else kept[:2] + segment + kept[2:]
    made = prepared(raw)
    assert made.large != raw
    assert b"secret" not in made.large
    assert hidden == b"" or hidden not in made.large


@pytest.mark.parametrize("form", ["PNG", "WEBP"])
def test_a_picture_that_lets_something_through_stands_on_white(form: str) -> None:
    clear = Image.new("RGBA", (50, 40), (0, 0, 0, 0))
    made = prepared(saved(clear, form))
    assert near(opened(made.large).getpixel((25, 20)), (255, 255, 255))


@pytest.mark.parametrize("mode", ["L", "P", "1", "CMYK", "I;16"])
def test_every_kind_of_pixel_is_taken(mode: str) -> None:
    form = "JPEG" if mode in ("L", "CMYK") else "PNG"
    picture = Image.new("I;16", (40, 30)) if mode == "I;16" else halves(40, 30, mode)
    assert opened(prepared(saved(picture, form)).large).mode == "RGB"


def test_colours_are_turned_to_srgb() -> None:
    def profiled(profile: Any) -> bytes:
        return saved(halves(40, 30), icc_profile=ImageCms.ImageCmsProfile(profile).tobytes())

    same = prepared(profiled(ImageCms.createProfile("sRGB")))
    assert near(opened(same.large).getpixel((5, 5)), RED)
    assert "icc_profile" not in opened(same.large).info
    # A profile that cannot be read says nothing.
    broken = prepared(saved(halves(40, 30), icc_profile=b"no profile at all"))
    assert near(opened(broken.large).getpixel((5, 5)), RED)


def test_a_phones_picture_of_several_parts_is_a_jpeg_as_any(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """With its depth or light beside it: it is as large as one may be, and only the picture is kept."""
    monkeypatch.setattr(pictures, "MOST_PIXELS_WHOLE", 10)
    out = io.BytesIO()
    halves(900, 600).save(out, "MPO", save_all=True, append_images=[halves(90, 60)])
    made = prepared(out.getvalue())
    assert (made.width_px, made.height_px) == (900, 600)
    assert b"MPF" not in made.large


def huge_png(width: int, height: int) -> bytes:
    """A PNG that says it is large, of a few bytes."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        sum32 = struct.pack(">I", zlib.crc32(kind + data))
        return struct.pack(">I", len(data)) + kind + data + sum32

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", b"") + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"", "cannot be read"),
        (b"not a picture", "cannot be read"),
        (saved(halves(400, 300))[:2000], "cannot be read"),
        (saved(halves(400, 300), "PNG")[:-40], "cannot be read"),
        (saved(halves(40, 30), "GIF"), "cannot be read"),
        (saved(halves(40, 30), "TIFF"), "cannot be read"),
        (huge_png(50_000, 50_000), "2500 megapixels"),
        (bytes(pictures.MOST_BYTES + 1), "30 MB"),
    ],
)
def test_what_is_no_picture_or_too_much_is_refused_and_says_why(raw: bytes, says: str) -> None:
    with pytest.raises(JobError, match=says) as refused:
        prepared(raw)
    assert refused.value.path == "picture"
    assert refused.value.accepted


def test_whatever_is_cut_off_or_spoilt_is_refused_or_taken_never_more() -> None:
    for raw in (saved(halves(90, 60)), saved(halves(90, 60), "PNG"), saved(halves(90, 60), "WEBP")):
        for i in range(0, len(raw), max(1, len(raw) // 60)):
            spoilt = raw[:i] + bytes([raw[i] ^ 0x55]) + raw[i + 1 :]
            for each in (spoilt, raw[:i]):
                try:
                    assert prepared(each).width_px >= 1
                except JobError:
                    continue
