"""Pictures of the made-up depot: drawn, since nobody was there to take them."""

from __future__ import annotations

import io
import random
from collections.abc import Callable, Mapping

from PIL import Image, ImageDraw, ImageFilter

__all__ = ["PICTURES"]

_SIZE = (960, 720)


def _jpeg(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=80)
    return out.getvalue()


def _speckled(draw: ImageDraw.ImageDraw, chance: random.Random, box: tuple[int, int, int, int], colours: list[str], count: int) -> None:
    for _ in range(count):
        x, y, r = chance.randint(box[0], box[2]), chance.randint(box[1], box[3]), chance.randint(2, 9)
        draw.ellipse((x - r, y - r, x + r, y + r), fill=chance.choice(colours))


def ground_stud() -> bytes:
    """A ground stud with a ring terminal, green crust on one side."""
    chance, picture = random.Random(7), Image.new("RGB", _SIZE, "#5b5750")
    draw = ImageDraw.Draw(picture)
    _speckled(draw, chance, (0, 0, *_SIZE), ["#55514a", "#615d55", "#6b665d"], 900)
    draw.line((960, 120, 560, 330), fill="#2b2622", width=46)
    draw.ellipse((330, 210, 630, 510), fill="#a9a294", outline="#7d766a", width=6)
    draw.regular_polygon((480, 360, 92), 6, rotation=12, fill="#8d8678", outline="#5f594e")
    draw.ellipse((436, 316, 524, 404), fill="#6f695d")
    _speckled(draw, chance, (340, 380, 470, 500), ["#4f8f7a", "#6fa890", "#3f7a68", "#8fb7a4"], 260)
    return _jpeg(picture.filter(ImageFilter.GaussianBlur(1.6)))


def floor_plug() -> bytes:
    """A plug parted, one pin drawn back and dark."""
    chance, picture = random.Random(11), Image.new("RGB", _SIZE, "#3c4247")
    draw = ImageDraw.Draw(picture)
    _speckled(draw, chance, (0, 0, *_SIZE), ["#3a4045", "#444b51", "#4d545a"], 700)
    draw.rounded_rectangle((250, 190, 710, 530), 36, fill="#1d1f21", outline="#0f1011", width=8)
    for number, x in enumerate((340, 440, 540, 640)):
        dark = number == 1
        draw.ellipse((x - 34, 326, x + 34, 394), fill="#0c0d0e")
        draw.ellipse((x - 20, 340, x + 20, 380), fill="#5a4331" if dark else "#c9c2b2")
    return _jpeg(picture.filter(ImageFilter.GaussianBlur(1.4)))


PICTURES: Mapping[str, Callable[[], bytes]] = {"ground_stud": ground_stud, "floor_plug": floor_plug}
