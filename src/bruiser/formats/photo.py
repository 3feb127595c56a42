"""Photos as the campaign file keeps them: upright, of limited size, with nothing else in them."""

from __future__ import annotations

import io
from dataclasses import dataclass

from PIL import Image, ImageOps

from bruiser.core.errors import InputError

LARGEST_PX = 1600
LARGEST_FILE = 40_000_000
LARGEST_SURFACE = 64_000_000
"""Pixels of a picture as it is taken in: more would take gigabytes to turn upright."""
_QUALITY = 85
_TOO_MANY = "The photo has more than 64 million pixels."
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF", "BMP", "GIF", "MPO")
"""Kinds of picture that are taken in."""


@dataclass(frozen=True)
class Picture:
    """A photo ready to be kept: JPEG, and its size in pixels."""

    jpeg: bytes
    width: int
    height: int


def take_in(raw: bytes) -> Picture:
    """Turn a picture upright, make it no larger than 1600 pixels, and drop all that is not picture.

    Camera, time and place recorded in the file are left behind: only the pixels are written anew.

    Raises
    ------
    InputError
        If it is no picture of a kind that is taken in, larger than 40 MB, or of too many pixels.
    """
    if len(raw) > LARGEST_FILE:
        raise InputError("The photo is larger than 40 MB.", "Make it smaller first.")
    try:
        with Image.open(io.BytesIO(raw), formats=FORMATS) as opened:
            if opened.width * opened.height > LARGEST_SURFACE:
                raise InputError(_TOO_MANY, "Make it smaller first.")
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except InputError:
        raise
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise InputError(_TOO_MANY, "Make it smaller first.") from error
    except Exception as error:
        raise InputError("This is no picture Bruiser can read.", "Take JPEG or PNG.") from error
    upright.thumbnail((LARGEST_PX, LARGEST_PX))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=_QUALITY)
    return Picture(out.getvalue(), *bare.size)
