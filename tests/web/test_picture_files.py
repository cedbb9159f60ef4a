"""Files sent as pictures: taken, stripped, kept, or refused."""

import contextlib
import io
import os
import subprocess
import sys
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from django.core.files.base import ContentFile
from django.urls import reverse
from django_scopes import scopes_disabled
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageOps

from launch.places import HOME
from mockup.base.faults import FaultsError
from tests.making_pictures import CUT_CLAY, jpeg, the_picture, upload
from tests.web import words
from web.pictures import decoding
from web.pictures.models import KeptFile, bytes_of
from web.pictures.storage import WithTheShop


def test_place_time_and_device_stay_behind(bench, whole):
    exif = Image.Exif()
    exif[0x010F], exif[0x0110] = "A maker of phones", "its model 7"
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    exif[0x0112] = 6
    sent = jpeg(exif=exif.tobytes(), comment=b"where I live")
    assert b"A maker of phones" in sent
    bench.post(reverse("pictures", args=[whole.pk]), {"pictures": [upload(sent, "home street 12.jpg")]})
    picture = the_picture()
    assert (picture.width, picture.height) == (300, 400), "turned upright before what says so is thrown away"
    with scopes_disabled():
        for file in (picture.file, picture.small):
            data = bytes_of(file)
            assert not [word for word in (b"maker", b"live", b"Exif", b"GPS") if word in data]
            with Image.open(io.BytesIO(data)) as opened:
                assert not opened.getexif()
    assert "home" not in picture.file.name


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"GIF89a not at all", "cannot be read as a picture"),
        (b"%PDF-1.7", "cannot be read as a picture"),
        (jpeg()[:900], "cannot be read as a picture"),
        (jpeg((90, 90)), "at least 160"),
        (jpeg(form="GIF"), "cannot be read as a picture"),
        (b"\x89PNG\r\n\x1a\n", "cannot be read as a picture"),
    ],
)
def test_what_is_no_picture_is_refused_in_words(bench, whole, data, says):
    answer = bench.post(reverse("pictures-in", args=[whole.pk]), {"picture": upload(data)})
    assert answer.status_code == 422
    assert says in words(answer) or (says == "empty" and "no picture" in words(answer))
    with scopes_disabled():
        assert not KeptFile.objects.exists()


def test_a_phones_heic_is_taken():
    data = Path(__file__).with_name("cut_clay.heic").read_bytes()
    found = decoding.decoded(io.BytesIO(data), len(data))
    assert (found.width, found.height) == (640, 336)
    assert found.jpeg.startswith(b"\xff\xd8")
    with pytest.raises(FaultsError, match="cannot be read as a picture"):
        decoding.decoded(io.BytesIO(data[:9000]), 9000)


def test_of_a_phones_several_pictures_in_one_the_first_is_taken():
    first, second = (Image.new("RGB", (400, 300), colour) for colour in ("red", "blue"))
    file = io.BytesIO()
    first.save(file, "MPO", save_all=True, append_images=[second])
    with Image.open(io.BytesIO(file.getvalue())) as opened:
        assert opened.format == "MPO"
    found = decoding.decoded(io.BytesIO(file.getvalue()), 1)
    with Image.open(io.BytesIO(found.jpeg)) as kept:
        red, _, blue = kept.getpixel((200, 150))
        assert (red > 200, blue < 50) == (True, True)
        assert kept.format == "JPEG"


@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_picture_is_turned_as_its_file_says(orientation):
    exif = Image.Exif()
    exif[0x0112] = orientation
    sent = jpeg(exif=exif.tobytes())
    found = decoding.decoded(io.BytesIO(sent), len(sent))
    with Image.open(io.BytesIO(sent)) as opened, Image.open(io.BytesIO(found.jpeg)) as kept:
        upright = np.asarray(ImageOps.exif_transpose(opened).convert("RGB"), dtype=float)
        assert np.abs(np.asarray(kept, dtype=float) - upright).mean() < 3


@pytest.mark.parametrize("size", [(4800, 3600), (4001, 900), (500, 4500)])
def test_one_that_is_scaled_in_bands_is_as_one_scaled_at_once(size):
    rng = np.random.default_rng(7)
    coarse = Image.fromarray(rng.integers(0, 255, (size[1] // 50 + 1, size[0] // 50 + 1, 3), dtype=np.uint8))
    whole = coarse.resize(size)
    file = io.BytesIO()
    whole.save(file, "PNG")
    with Image.open(io.BytesIO(file.getvalue())) as opened:
        banded = decoding._plain(opened)
    at_once = ImageOps.contain(whole, (decoding.LONGEST_PX, decoding.LONGEST_PX))
    assert banded.size == at_once.size
    assert np.abs(np.asarray(banded, dtype=int) - np.asarray(at_once, dtype=int)).max() <= 2


MEASURED = """
import io, resource, sys
from PIL import Image
from web.pictures.decoding import decoded
def most():
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
data = open(sys.argv[1], "rb").read()
before = most()
decoded(io.BytesIO(data), len(data))
print(most() - before)
"""


@pytest.mark.parametrize(("form", "size"), [("JPEG", (6000, 4000)), ("JPEG", (8700, 8000)), ("PNG", (6000, 4000))])
def test_a_large_picture_takes_no_more_memory_than_a_worker_has(tmp_path, form, size):
    file = tmp_path / "large"
    Image.new("RGB", size, "grey").save(file, form)
    environment = os.environ | {"PYTHONPATH": str(HOME / "src")}
    command = [sys.executable, "-c", MEASURED, str(file)]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=True)
    assert float(done.stdout) < 230, "megabytes"


@pytest.mark.parametrize("of", ["mockup-Q", "entry-999999999", "entry-x", "entry-" + "9" * 30, "nonsense"])
def test_a_picture_of_what_is_not_in_the_build_is_refused(bench, whole, of):
    answer = bench.post(reverse("pictures", args=[whole.pk]), {"pictures": [upload()], "of": of, "words": "port side"})
    assert answer.status_code == 422
    assert "is no longer in this build" in words(answer)
    assert "port side" in answer.content.decode(), "what was typed is still there"
    with scopes_disabled():
        assert not KeptFile.objects.exists()


def test_a_picture_that_breaks_off_is_refused_though_a_sheet_was_set_in_type_before(bench, whole):
    # WeasyPrint tells Pillow to take half a picture for a whole one, for the whole process.
    bench.get(reverse("sheet-pdf", args=[whole.pk]))
    data = CUT_CLAY[: len(CUT_CLAY) // 2]
    with pytest.raises(FaultsError, match="cannot be read as a picture"):
        decoding.decoded(io.BytesIO(data), len(data))


def test_a_small_file_that_unpacks_to_very_many_pixels_is_refused_before_it_is_unpacked(monkeypatch):
    file = io.BytesIO()
    Image.new("1", (8_000, 8_000)).save(file, "PNG")
    assert len(file.getvalue()) < 100_000
    monkeypatch.setattr(Image.Image, "load", lambda *_: pytest.fail("it was unpacked"))
    with pytest.raises(FaultsError, match="64 megapixels"):
        decoding.decoded(io.BytesIO(file.getvalue()), len(file.getvalue()))


def test_one_that_unpacks_to_more_than_any_camera_has_is_refused_too():
    file = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(file, "PNG")
    with pytest.raises(FaultsError, match="more megapixels"):
        decoding.decoded(io.BytesIO(file.getvalue()), len(file.getvalue()))


def test_a_file_too_large_is_refused(monkeypatch):
    with pytest.raises(FaultsError, match="at most 30"):
        decoding.decoded(io.BytesIO(b""), 31_000_000)


@pytest.mark.parametrize(
    ("mode", "form"), [("RGBA", "PNG"), ("L", "JPEG"), ("P", "PNG"), ("CMYK", "JPEG"), ("RGB", "WEBP"), ("LA", "PNG")]
)
def test_every_usual_sort_of_picture_becomes_a_plain_jpeg(mode, form):
    data = jpeg(mode=mode, form=form)
    found = decoding.decoded(io.BytesIO(data), len(data))
    with Image.open(io.BytesIO(found.jpeg)) as opened:
        assert (opened.format, opened.mode, opened.size) == ("JPEG", "RGB", (400, 300))


def test_a_large_picture_is_scaled():
    data = jpeg((5200, 2600))
    found = decoding.decoded(io.BytesIO(data), len(data))
    assert (found.width, found.height) == (4000, 2000)
    with Image.open(io.BytesIO(found.small)) as opened:
        assert max(opened.size) == decoding.SMALL_PX


@settings(max_examples=60, deadline=timedelta(seconds=5))
@given(st.lists(st.tuples(st.integers(0, 3000), st.integers(0, 255)), min_size=1, max_size=40), st.integers(100, 3000))
def test_a_damaged_file_is_a_picture_or_refused_and_never_an_error(changes, end):
    data = bytearray(jpeg((200, 180))[:end])
    for at, byte in changes:
        data[at % len(data)] = byte
    # Anything but a refusal in words would come up here.
    with contextlib.suppress(FaultsError):
        assert decoding.decoded(io.BytesIO(bytes(data)), len(data)).width


def test_the_storage_keeps_gives_and_forgets_and_has_no_addresses(db):
    storage = WithTheShop()
    storage.save("one.jpg", ContentFile(b"bytes"))
    assert storage.exists("one.jpg")
    with storage.open("one.jpg") as opened:
        assert opened.read() == b"bytes"
    with pytest.raises(ValueError, match="only read"):
        storage.open("one.jpg", "wb")
    storage.delete("one.jpg")
    assert not storage.exists("one.jpg")
    with pytest.raises(FileNotFoundError):
        storage.open("one.jpg")
