"""Pictures that tests send: the demo's cut clay, and ones that show nothing."""

import io
from pathlib import Path

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django_scopes import scopes_disabled
from PIL import Image

import web.demo
from web.pictures.models import Picture

CUT_CLAY = (Path(web.demo.__file__).with_name("cut_clay.jpg")).read_bytes()


def upload(data=CUT_CLAY, name="IMG_0042.JPG"):
    return SimpleUploadedFile(name, data, "image/jpeg")


def the_picture():
    with scopes_disabled():
        return Picture.objects.get()


def jpeg(size=(400, 300), mode="RGB", form="JPEG", **more):
    file = io.BytesIO()
    Image.fromarray(
        np.arange(size[0] * size[1] * 3, dtype=np.uint32).astype(np.uint8).reshape(size[1], size[0], 3)
    ).convert(mode).save(file, form, **more)
    return file.getvalue()
