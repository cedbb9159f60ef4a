"""The worker beside the server: PDFs and other slow work, from a queue in the database.

Forked from the imported application. It is restarted whenever it ends, and ends with the serving, however that ends.
"""

import ctypes
import gc
import os
import signal
import time
from collections.abc import Callable

AGAIN_AFTER_S = 1.0
LOOKS_EVERY_S = 0.25
LESS_THAN_PAGES = 10
"""How nice the worker is: a page somebody waits for goes before a PDF."""
PR_SET_PDEATHSIG = 1


def beside(work: Callable[[], None]) -> None:
    """Run ``work`` in a process of its own, again and again; returns at once."""
    if os.fork():
        return
    _goes_with_its_parent()
    while True:
        child = os.fork()
        if child == 0:
            _goes_with_its_parent()
            try:
                work()
            finally:
                os._exit(0)
        os.waitpid(child, 0)
        time.sleep(AGAIN_AFTER_S)


def work_through() -> None:
    """Do the tasks in the queue, and wait for more."""
    from django.core.management import call_command  # noqa: PLC0415, imported by the application before this is called

    gc.enable()
    os.nice(LESS_THAN_PAGES)
    call_command("db_worker", interval=LOOKS_EVERY_S, startup_delay=False, reload=False, verbosity=0)


def _goes_with_its_parent() -> None:
    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP, signal.SIGCHLD):
        signal.signal(number, signal.SIG_DFL)
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)
