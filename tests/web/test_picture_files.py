"""Files that are sent as pictures: which are taken, what is left of them, how they are kept, and what is refused."""

import contextlib
import io
from datetime import timedelta

import pytest
from django.core.files.base import ContentFile
from django.urls import reverse
from django_scopes import scopes_disabled
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from bench.pictures import decoding
from bench.pictures.models import KeptFile, bytes_of
from bench.pictures.storage import WithTheShop
from mockup.faults import FaultsError
from tests.making_pictures import CUT_CLAY, jpeg, the_picture, upload
from tests.web import words


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
        (b"GIF89a not at all", "no picture that can be read"),
        (b"%PDF-1.7", "no picture that can be read"),
        (jpeg()[:900], "no picture that can be read"),
        (jpeg((90, 90)), "160 at least"),
        (jpeg(form="GIF"), "no picture that can be read"),
        (b"\x89PNG\r\n\x1a\n", "no picture that can be read"),
    ],
)
def test_what_is_no_picture_is_refused_in_words(bench, whole, data, says):
    answer = bench.post(reverse("pictures-in", args=[whole.pk]), {"picture": upload(data)})
    assert answer.status_code == 422
    assert says in words(answer) or (says == "empty" and "no picture" in words(answer))
    with scopes_disabled():
        assert not KeptFile.objects.exists()


def test_a_picture_that_breaks_off_is_refused_though_a_sheet_was_set_in_type_before(bench, whole):
    # WeasyPrint tells Pillow to take half a picture for a whole one, for the whole process.
    bench.get(reverse("sheet-pdf", args=[whole.pk]))
    data = CUT_CLAY[: len(CUT_CLAY) // 2]
    with pytest.raises(FaultsError, match="no picture that can be read"):
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
    with pytest.raises(FaultsError, match="up to 30"):
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
