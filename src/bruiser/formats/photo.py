"""Photos as the campaign file keeps them: upright, of limited size, with nothing else in them."""

from __future__ import annotations

import io
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from bruiser.core.errors import InputError

LARGEST_PX = 1600
LARGEST_FILE = 40_000_000
_QUALITY = 85


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
        If it is no picture, or larger than 40 MB.
    """
    if len(raw) > LARGEST_FILE:
        raise InputError("The photo is larger than 40 MB.", "Make it smaller first.")
    try:
        with Image.open(io.BytesIO(raw)) as opened:
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError) as error:
        raise InputError("This is no picture Bruiser can read.", "Take JPEG or PNG.") from error
    upright.thumbnail((LARGEST_PX, LARGEST_PX))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=_QUALITY)
    return Picture(out.getvalue(), *bare.size)
