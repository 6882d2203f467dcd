"""Photos as they are kept: read by what they hold, turned upright, made no larger than a screen needs, and written anew without what came
with them: place, time and camera."""

from __future__ import annotations

import io
import warnings
from threading import BoundedSemaphore

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from ..core.base.errors import PondrelError

__all__ = ["LONGEST_SIDE", "MOST_PIXELS", "PhotoError", "is_photo", "is_tidy", "size_of", "tidied_photo"]

MOST_PIXELS = 36_000_000
LONGEST_SIDE = 2560  # pixels of what is kept
_QUALITY = 85
_AT_ONCE = BoundedSemaphore(2)  # photos that are worked on: each may take a hundred megabytes
# By media type: what it is called to a person, and the format that alone is tried on it.
_FORMATS = {"image/jpeg": ("JPEG", "JPEG"), "image/png": ("PNG", "PNG"), "image/webp": ("WebP", "WEBP")}


class PhotoError(PondrelError):
    """A photo that is not taken."""


def is_photo(media: str) -> bool:
    """Whether a media type is a photo's."""
    return media in _FORMATS


_HARMLESS = {
    "jfif",
    "jfif_version",
    "jfif_unit",
    "jfif_density",
    "dpi",
    "progressive",
    "progression",
    "interlace",
    "gamma",
    "transparency",
    "loop",
    "background",
    "timestamp",
    "duration",
}


def is_tidy(content: bytes, media: str) -> bool:
    """Whether a photo is such as is kept: of a size that is, and with nothing besides its pixels. Raises PhotoError where it is none."""
    tidied_photo(content, media)
    with Image.open(io.BytesIO(content)) as photo:
        return max(photo.size) <= LONGEST_SIDE and not len(photo.getexif()) and set(map(str, photo.info)) <= _HARMLESS


def tidied_photo(content: bytes, media: str) -> bytes:
    """A photo written anew in its own format. Raises PhotoError with one sentence."""
    name, format_name = _FORMATS[media]
    try:
        with warnings.catch_warnings():
            # Its size is read and judged here, before any pixel is.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content), formats=[format_name]) as photo, _AT_ONCE:
                _check_size(photo)
                photo.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
                return _written(photo, format_name)
    except PhotoError:
        raise
    except Image.DecompressionBombError as error:
        raise PhotoError(f"The {name} says that it is larger than any photo: it is not opened.") from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError, IndexError, TypeError) as error:
        raise PhotoError(f"The {name} is damaged and cannot be read: take the photo once more, or save it anew.") from error


def _check_size(photo: ImageFile.ImageFile) -> None:
    width, height = photo.size
    if width * height > MOST_PIXELS:
        many = f"{width * height / 1e6:.0f} megapixels"
        most = f"at most {MOST_PIXELS / 1e6:.0f} are taken"
        raise PhotoError(f"The photo has {many}; {most}: choose the camera's usual size, or make it smaller.")
    if min(width, height) < 1:
        raise PhotoError("The photo has no pixels: take it once more.")


def _written(photo: ImageFile.ImageFile, format_name: str) -> bytes:
    upright = ImageOps.exif_transpose(photo) or photo
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE), Image.Resampling.LANCZOS)
    keeps_holes = format_name != "JPEG" and (upright.mode in ("RGBA", "LA", "PA") or "transparency" in upright.info)
    plain = upright.convert("RGBA" if keeps_holes else "RGB")
    out = io.BytesIO()
    # Nothing is handed on of what came with it: neither place nor time nor camera.
    clean = Image.frombytes(plain.mode, plain.size, plain.tobytes())
    clean.save(out, format_name, **({"optimize": True} if format_name == "PNG" else {"quality": _QUALITY}))
    return out.getvalue()


def size_of(content: bytes) -> tuple[int, int]:
    """Width and height of a kept photo in pixels."""
    with Image.open(io.BytesIO(content)) as photo:
        width, height = photo.size
    return width, height
