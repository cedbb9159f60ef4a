"""An uploaded picture made into a stored one: upright, scaled, without metadata.

Place, time, maker and serial number of the device, and everything else in the file, are left behind: only the pixels
are written to a new file.
"""

import struct
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from io import BytesIO
from math import ceil
from threading import Lock
from typing import IO

from pi_heif import register_heif_opener
from PIL import ExifTags, Image, ImageFile, ImageOps

from mockup.base.faults import Fault, refuse

register_heif_opener()
TYPES = ("JPEG", "PNG", "WEBP", "HEIF")
"""HEIF is the HEIC of phones. A JPEG with further pictures behind it (MPO), which phones also write, counts as JPEG."""
MOST_BYTES = 30_000_000
MOST_PIXELS = {"JPEG": 70_000_000, "MPO": 70_000_000, "PNG": 24_000_000, "WEBP": 12_000_000, "HEIF": 24_000_000}
"""By type: a JPEG can be read at a fraction of its size, the others are unpacked whole."""
MOST_PROGRESSIVE = 16_000_000
"""Most pixels of a progressive JPEG, which is held in memory as a whole at any reading size."""
READ_IN_HALF = 24_000_000
"""A JPEG with more pixels is read at half its size each way."""
BAND_PX = 256
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
"""The errors of reading a file that is not a picture, or only half of one."""


UPRIGHT = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
"""How to turn a picture by its orientation tag. Source: Exif 2.32, tag Orientation."""
_one_at_a_time = Lock()


@dataclass(frozen=True, slots=True)
class Decoded:
    """A picture to store: its JPEG, a small one, and its size [px]."""

    jpeg: bytes
    small: bytes
    width: int
    height: int


def decoded(file: IO[bytes], size: int) -> Decoded:
    """Return a file of ``size`` bytes as a picture to store.

    Raises FaultsError for one that is refused.
    """
    refuse(_too_much(size, MOST_BYTES, f"It has {size / 1e6:,.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are accepted."))
    try:
        whole = _read(file)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        refuse([Fault("picture", BOMB)])
    except BROKEN as error:
        if hasattr(error, "faults"):
            raise
        words = "It cannot be read as a picture: a whole JPEG, HEIC, PNG or WebP is needed."
        refuse([Fault("picture", words)])
    small = ImageOps.contain(whole, (SMALL_PX, SMALL_PX))
    return Decoded(_jpeg(whole, QUALITY), _jpeg(small, SMALL_QUALITY), whole.width, whole.height)


def _read(file: IO[bytes]) -> Image.Image:
    with Image.open(file, formats=TYPES) as found:
        refuse(_wrong(found))
        if found.width * found.height > READ_IN_HALF:
            found.draft("RGB", (found.width // 2, found.height // 2))
        with _to_its_end():
            found.load()
        return _plain(found)


@contextmanager
def _to_its_end() -> Iterator[None]:
    """Refuse truncated files, even where WeasyPrint has told Pillow to accept them."""
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
    # The size is in the file's header: checked before a byte of the picture is unpacked.
    pixels, most = found.width * found.height, MOST_PIXELS.get(found.format or "", 0)
    most = min(most, MOST_PROGRESSIVE) if found.info.get("progressive") else most
    wrong = _too_much(pixels, most, f"It has {pixels / 1e6:,.0f} megapixels; at most {most / 1e6:.0f} are accepted.")
    if min(found.size) < LEAST_PX:
        wrong.append(
            Fault("picture", f"It is {found.width} by {found.height} pixels; at least {LEAST_PX} each way are needed.")
        )
    if found.mode not in EIGHT_BITS:
        wrong.append(Fault("picture", "It has more than 8 bits a colour: save it as JPEG."))
    return wrong


def _plain(found: Image.Image) -> Image.Image:
    """Return it upright, RGB, over white, at most LONGEST_PX; in bands to save memory."""
    shrunk = min(1.0, LONGEST_PX / max(found.size))
    width, height = (max(1, round(length * shrunk)) for length in found.size)
    per_row = found.height / height
    beside = ceil(2 * per_row) + 2  # rows that the filter needs beyond the band
    plain = Image.new("RGB", (width, height))
    for top in range(0, height, BAND_PX):
        rows = min(BAND_PX, height - top)
        first = max(0, int(top * per_row) - beside)
        last = min(found.height, ceil((top + rows) * per_row) + beside)
        band = _over_white(found.crop((0, first, found.width, last)))
        box = (0.0, top * per_row - first, float(found.width), (top + rows) * per_row - first)
        plain.paste(band.resize((width, rows), Image.Resampling.BICUBIC, box=box), (0, top))
    turn = UPRIGHT.get(found.getexif().get(ExifTags.Base.Orientation, 1))
    return plain if turn is None else plain.transpose(turn)


def _over_white(band: Image.Image) -> Image.Image:
    if band.mode in ("LA", "PA", "RGBA", "P"):
        band = band.convert("RGBA")
        band = Image.alpha_composite(Image.new("RGBA", band.size, "white"), band)
    return band.convert("RGB")


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    # The picture is a new one of our own, so nothing of the uploaded file comes along.
    file = BytesIO()
    picture.save(file, "JPEG", quality=quality, optimize=True)
    return file.getvalue()
