"""Reading PNG and JPEG pictures as underlays (with Pillow): only what is needed to lay them out."""

from __future__ import annotations

import hashlib
import io
from pathlib import PurePath
from typing import TYPE_CHECKING

from ovolo.formats.format import Format
from ovolo.geometry.underlay import Underlay, unplaced
from ovolo.problems import Failure

if TYPE_CHECKING:
    from PIL import Image

MOST_BYTES = 8_000_000
MOST_PIXELS = 40_000_000
_FORMATS = {"png": "PNG", "jpg": "JPEG", "jpeg": "JPEG"}


def read_image(data: bytes, name: str) -> Underlay:
    """A picture, checked by its content. Raises Failure for what is none, or is too large."""
    from PIL import Image, UnidentifiedImageError

    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are taken")
    wanted = _FORMATS[PurePath(name).suffix.lstrip(".").lower()]
    Image.MAX_IMAGE_PIXELS = None  # our own limit is looked at before anything is unpacked
    try:
        with Image.open(io.BytesIO(data), formats=["PNG", "JPEG"]) as image:
            width, height = image.size
            if image.format != wanted:
                raise Failure(f"{name} holds {image.format}, not {wanted}", "name it as what it is")
            if width * height > MOST_PIXELS:
                raise Failure(
                    f"{name} has {width:,} x {height:,} pixels; at most {MOST_PIXELS:,} are taken",
                    "save it smaller",
                )
            image.load()
            if _lies_on_its_side(image):
                width, height = height, width
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise Failure(
            f"{name} cannot be read as a picture: {str(error)[:120]}", "save it as PNG or JPEG"
        ) from None
    return unplaced(name, width, height, hashlib.blake2b(data, digest_size=12).hexdigest())


_ORIENTATION = 0x0112
_ON_ITS_SIDE = (5, 6, 7, 8)
"""Values of that tag (Exif 2.3, 4.6.4) with which rows of the file are seen as columns."""


def _lies_on_its_side(image: Image.Image) -> bool:
    """Whether a photograph is turned by a quarter where it is shown, as browsers show it."""
    return image.getexif().get(_ORIENTATION) in _ON_ITS_SIDE


FORMATS = (
    Format("png", "PNG", 110, holds="a picture", read=read_image),
    Format("jpg", "JPEG", 120, also=("jpeg",), holds="a picture", read=read_image),
)
