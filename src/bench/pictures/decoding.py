"""A picture as somebody sent it, made into one that is kept: upright, scaled, and nothing in it but what it shows.

Place, time, maker and serial number of the device, and whatever else a file carries, stay behind: only the pixels are
written anew.
"""

import struct
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from io import BytesIO
from threading import Lock
from typing import IO

from PIL import Image, ImageFile, ImageOps

from mockup.faults import Fault, refuse

TYPES = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 30_000_000
MOST_PIXELS = {"JPEG": 70_000_000, "PNG": 30_000_000, "WEBP": 30_000_000}
"""By type: a JPEG is read in at a part of its size, the others are unpacked whole."""
BOMB = "It unpacks to more megapixels than any camera has."
LEAST_PX = 160
LONGEST_PX = 4_000
SMALL_PX = 720
QUALITY, SMALL_QUALITY = 90, 80
EIGHT_BITS = {"1", "L", "LA", "P", "PA", "RGB", "RGBA", "RGBX", "CMYK", "YCbCr"}
BROKEN = (
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    TypeError,
    LookupError,
    ArithmeticError,
    AttributeError,
    MemoryError,
    RuntimeError,
    struct.error,
)
"""What reading a file in may raise that is no picture, or half of one."""


_one_at_a_time = Lock()


@dataclass(frozen=True, slots=True)
class Decoded:
    """A picture to keep: its JPEG, a small one of it, and its size [px]."""

    jpeg: bytes
    small: bytes
    width: int
    height: int


def decoded(file: IO[bytes], size: int) -> Decoded:
    """A file of ``size`` bytes as a picture to keep. Raises FaultsError, with words, for one that is not taken."""
    refuse(_too_much(size, MOST_BYTES, f"It has {size / 1e6:,.0f} MB; up to {MOST_BYTES / 1e6:.0f} are taken."))
    try:
        with Image.open(file, formats=TYPES) as found:
            refuse(_wrong(found))
            # A JPEG is read in at half or a quarter of its size where that is enough.
            found.draft("RGB", (LONGEST_PX, LONGEST_PX))
            with _to_its_end():
                found.load()
            whole = _plain(found)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        refuse([Fault("picture", BOMB)])
    except BROKEN as error:
        if hasattr(error, "faults"):
            raise
        words = "It is no picture that can be read: JPEG, PNG or WebP, whole. A phone sends JPEG when asked for it."
        refuse([Fault("picture", words)])
    small = ImageOps.contain(whole, (SMALL_PX, SMALL_PX))
    return Decoded(_jpeg(whole, QUALITY), _jpeg(small, SMALL_QUALITY), whole.width, whole.height)


@contextmanager
def _to_its_end() -> Iterator[None]:
    """Refuse files that break off: WeasyPrint, where it is read in, has told Pillow to take them."""
    with _one_at_a_time:
        before = ImageFile.LOAD_TRUNCATED_IMAGES
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        try:
            yield
        finally:
            ImageFile.LOAD_TRUNCATED_IMAGES = before


def _too_much(one: int, most: int, words: str) -> list[Fault]:
    return [Fault("picture", words)] if one > most else []


def _wrong(found: Image.Image) -> list[Fault]:
    # Its size stands at the head of the file: looked at before a byte of the picture is unpacked.
    pixels, most = found.width * found.height, MOST_PIXELS.get(found.format or "", 0)
    wrong = _too_much(pixels, most, f"It has {pixels / 1e6:,.0f} megapixels; up to {most / 1e6:.0f} are taken.")
    if min(found.size) < LEAST_PX:
        wrong.append(Fault("picture", f"It is {found.width} by {found.height} pixels: {LEAST_PX} at least each way."))
    if found.mode not in EIGHT_BITS:
        wrong.append(Fault("picture", "It has more than 8 bits a colour: save it as JPEG."))
    return wrong


def _plain(found: Image.Image) -> Image.Image:
    upright = ImageOps.exif_transpose(found)
    if upright.mode in ("LA", "PA", "RGBA", "P") and "A" in upright.convert("RGBA").getbands():
        over = Image.new("RGBA", upright.size, "white")
        upright = Image.alpha_composite(over, upright.convert("RGBA"))
    plain = upright.convert("RGB")
    if max(plain.size) > LONGEST_PX:
        plain = ImageOps.contain(plain, (LONGEST_PX, LONGEST_PX))
    return plain


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    # A picture of its own, so that nothing of the file it came from can come along.
    bare = Image.new("RGB", picture.size)
    bare.paste(picture)
    file = BytesIO()
    bare.save(file, "JPEG", quality=quality, optimize=True)
    return file.getvalue()
