"""Programs that use the API, and gauges that send readings."""

from django.test import Client
from django.urls import reverse
from django.utils import timezone

LONG = 600_000


def asked(client, held=LONG, in_tray="0", **more):
    """What a page is told whose field has had the cursor for ``held`` ms; 0 for none."""
    since = {"since_ms": str(timezone.now().timestamp() * 1000 - held)} if held else {}
    answer = client.post(reverse("gauge-next"), {"in_tray": in_tray} | since | more)
    assert abs(float(answer["X-Now"]) / 1000 - timezone.now().timestamp()) < 60
    return answer.json() if answer.status_code == 200 else {"in_tray": int(in_tray), "reading": None}


def offered(client, held=LONG):
    return asked(client, held)["reading"]


"""A field that has had the cursor for ten minutes [ms]."""


class Program:
    """A program with a key; what it is answered."""

    def __init__(self, token):
        self.client = Client(headers={"Authorization": f"Bearer {token}"})

    def get(self, path, **query):
        return self.client.get(f"/api/{path}", query)

    def post(self, path, data):
        return self.client.post(f"/api/{path}", data, content_type="application/json")


def faults(answer):
    return [(fault["path"], fault["message"]) for fault in answer.json()["faults"]]
