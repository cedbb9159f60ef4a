"""A storm: people write while connections are cut; acknowledged is stored, once.

A short form; ``MOLE_STORM=10000 ./mole test web -k storm`` is the long one.
"""

import logging
import os
import sys
import threading
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest
from django.db import DatabaseError, InterfaceError, connection
from django.test import Client
from django.urls import reverse

from tests import making_rows as making

READINGS = int(os.environ.get("MOLE_STORM", "120"))
CLIENTS = 6
CUT_EVERY = 5
CUT = """
    SELECT pg_terminate_backend(pid) FROM pg_stat_activity
    WHERE pid <> pg_backend_pid() AND datname = current_database()
"""


def written(client, built, count, acknowledged):
    """Writes readings one by one, each sent again with its token until it is acknowledged."""
    address = reverse("deck", args=[built.pk])
    for at in range(count):
        token = str(uuid4())
        while True:
            try:
                answer = client.post(
                    address, {"deck-1": f"{at % 9 + 1} down", "token": token}, headers={"HX-Request": "true"}
                )
            except (DatabaseError, InterfaceError):
                connection.close()
                continue
            if answer.status_code == 200:
                acknowledged.append(token)
                break
            # A server closes the connection that died with the request; the tests' client does not.
            connection.close()
    connection.close()


@pytest.mark.django_db(transaction=True)
def test_whatever_was_acknowledged_in_a_storm_is_stored_once(member):
    logging.disable()  # every cut is an error to somebody
    builds = [making.build(member, name=f"Tern {at}") for at in range(3)]
    clients = [Client(raise_request_exception=False) for _ in range(CLIENTS)]
    for client in clients:
        client.force_login(member)
    over = threading.Event()
    acknowledged, cuts = [], 0

    def cut():
        nonlocal cuts
        seen = 0
        while not over.is_set():
            # As often as work gets on: a slow machine is cut as often a reading as a quick one.
            if len(acknowledged) < seen + CUT_EVERY:
                time.sleep(0.005)
                continue
            seen = len(acknowledged)
            try:
                with connection.cursor() as cursor:
                    cursor.execute(CUT)
                    cuts += cursor.rowcount
            except (DatabaseError, InterfaceError):
                connection.close()
        connection.close()

    cutting = threading.Thread(target=cut)
    cutting.start()
    try:
        with ThreadPoolExecutor(CLIENTS) as pool:
            each = READINGS // CLIENTS
            jobs = [pool.submit(written, one, builds[at % 3], each, acknowledged) for at, one in enumerate(clients)]
            for job in jobs:
                job.result()
    finally:
        over.set()
        cutting.join()
        logging.disable(logging.NOTSET)
    connection.close()
    stored = Counter(str(line.token) for built in builds for line in making.lines(built, "deck"))
    sys.stdout.write(f"{len(acknowledged)} acknowledged, {sum(stored.values())} stored, {cuts} connections cut\n")
    assert cuts > 10, "there was a storm"
    assert stored == Counter(acknowledged)
    assert len(acknowledged) == READINGS // CLIENTS * CLIENTS
