"""Photos as kept, read back by Pillow itself: upright, without place or camera, no larger than a screen needs; hostile ones refused.

Orientation by Exif 2.3 tag 0x0112, whose eight values are tried; the reference is Pillow's own reading of the file and of the tag.
"""

from __future__ import annotations

import io
import struct
import zlib

import pytest
from PIL import Image, ImageOps

from pondrel.store.photos import LONGEST_SIDE, MOST_PIXELS, PhotoError, is_tidy, tidied_photo

GPS, ORIENTATION, MAKE = 0x8825, 0x0112, 0x010F


def jpeg(orientation: int = 1, size: tuple[int, int] = (64, 48)) -> bytes:
    """Four quarters of different colours, with a camera, a place and an orientation."""
    image = Image.new("RGB", size, "#202020")
    for box, colour in (((0, 0), "#c03030"), ((size[0] // 2, 0), "#30c030"), ((0, size[1] // 2), "#3030c0")):
        image.paste(colour, (*box, box[0] + size[0] // 2, box[1] + size[1] // 2))
    exif = Image.Exif()
    exif[ORIENTATION], exif[MAKE] = orientation, "Camera"
    exif[GPS] = {1: "N", 2: (50.0, 4.0, 1.0)}
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif, quality=95, comment=b"at the gate")
    return out.getvalue()


def corners(image: Image.Image) -> list[tuple[int, ...]]:
    width, height = image.size
    plain = image.convert("RGB")
    return [plain.getpixel((x, y)) for x in (width // 8, width - width // 8) for y in (height // 8, height - height // 8)]


@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_photo_stands_upright_as_pillow_turns_it(orientation):
    content = jpeg(orientation)
    kept = Image.open(io.BytesIO(tidied_photo(content, "image/jpeg")))
    upright = ImageOps.exif_transpose(Image.open(io.BytesIO(content)))
    assert kept.size == upright.size
    for own, reference in zip(corners(kept), corners(upright), strict=True):
        assert all(abs(a - b) < 24 for a, b in zip(own, reference, strict=True))  # written anew as JPEG: colours wash a little


def test_neither_place_nor_camera_nor_comment_goes_along():
    kept = tidied_photo(jpeg(6), "image/jpeg")
    image = Image.open(io.BytesIO(kept))
    assert not dict(image.getexif()) and "exif" not in image.info and "comment" not in image.info
    assert b"Camera" not in kept and b"gate" not in kept and is_tidy(kept, "image/jpeg") and not is_tidy(jpeg(), "image/jpeg")


def test_what_is_hidden_behind_the_pixels_is_gone():
    out = io.BytesIO()
    Image.new("RGB", (9, 9)).save(out, "PNG")
    assert b"<script>" not in tidied_photo(out.getvalue() + b"<script>alert(1)</script>", "image/png")


@pytest.mark.parametrize("media", ["image/png", "image/webp"])
def test_holes_stay_holes(media):
    out = io.BytesIO()
    Image.new("RGBA", (40, 30), (10, 20, 30, 0)).save(out, media.removeprefix("image/").upper(), lossless=True)
    kept = Image.open(io.BytesIO(tidied_photo(out.getvalue(), media)))
    assert kept.size == (40, 30) and kept.convert("RGBA").getpixel((5, 5))[3] == 0


def test_a_large_photo_is_made_as_large_as_a_screen_needs():
    kept = Image.open(io.BytesIO(tidied_photo(jpeg(1, (5200, 3900)), "image/jpeg")))
    assert kept.size == (LONGEST_SIDE, LONGEST_SIDE * 3 // 4)


def bomb(width: int, height: int) -> bytes:
    """A PNG of a few hundred bytes that says it is huge."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(bytes(1000))) + chunk(b"IEND", b"")


@pytest.mark.parametrize(("width", "height"), [(8000, 5000), (60_000, 60_000), (2**31 - 1, 2**31 - 1)])
def test_forty_megapixels_and_a_bomb_are_refused_before_a_pixel_is_read(width, height):
    assert width * height > MOST_PIXELS
    with pytest.raises(PhotoError, match=r"megapixels; at most 36|larger than any photo|is damaged"):
        tidied_photo(bomb(width, height), "image/png")


def test_forty_megapixels_are_told_as_such():
    with pytest.raises(PhotoError, match="The photo has 40 megapixels; at most 36 are taken: choose the camera's usual size"):
        tidied_photo(bomb(8000, 5000), "image/png")


@pytest.mark.parametrize(
    ("content", "media"),
    [
        (jpeg()[:400], "image/jpeg"), (b"\xff\xd8\xff" + bytes(200), "image/jpeg"), (bomb(50, 50), "image/png"),
        (b"RIFF\x10\x00\x00\x00WEBPVP8 ", "image/webp"), (b"\x89PNG\r\n\x1a\n", "image/png"), (jpeg(), "image/png"),
    ],
)  # fmt: skip
def test_a_damaged_photo_is_refused_in_a_sentence(content, media):
    with pytest.raises(PhotoError, match=r"is damaged and cannot be read: take the photo once more"):
        tidied_photo(content, media)
