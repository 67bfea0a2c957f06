"""Serving a bench: a server that takes a request whole before a thread sees it, so that no slow or stuck client holds one."""

from __future__ import annotations

import gc
import signal
import threading
import time
from collections.abc import Callable, Mapping
from types import FrameType

from waitress import wasyncore
from waitress.server import create_server

from .ui import lazy, tasks
from .wsgi import application

#: Requests answered at once, and connections held open at once.
THREADS, CONNECTIONS = 8, 500
#: How long a silent connection is kept, and how often that is looked at, s.
SILENCE, LOOK = 30, 5
#: The largest request that is taken in at all, bytes; a photo or a table is refused by its own limit before.
LARGEST = 300_000_000
#: How soon after the start, and how often from then on, what is done by the clock is looked at, s.
SOON, HOURLY = 3.0, 3600.0
#: How long what is in hand may take once the program was told to stop, s.
LAST = 20.0


def serve(addresses: list[str], port: int, by_the_clock: Callable[[], object], ready: Callable[[], object]) -> None:
    """Serve until the process is told to stop; then no more is taken on, and what is in hand is finished.

    Args:
        addresses: to listen on. by_the_clock: done soon after the start and then every hour, in a thread of its own. ready: called
            when it listens.
    """
    # what stands by now stays; of a page's thousands of objects nearly all go by themselves
    gc.freeze()
    gc.set_threshold(50_000, 50, 100)
    sockets: dict[int, wasyncore.dispatcher] = {}
    server = create_server(
        application,
        map=sockets,
        listen=" ".join(f"{address}:{port}" for address in addresses),
        threads=THREADS,
        connection_limit=CONNECTIONS,
        channel_timeout=SILENCE,
        cleanup_interval=LOOK,
        max_request_body_size=LARGEST,
        # an answer lies in a file until its reader has taken it, however slowly; the thread goes on to the next
        outbuf_high_watermark=LARGEST * 100,
        # they are looked at: what was handed on from elsewhere is not from this machine
        clear_untrusted_proxy_headers=False,
        ident=None,
    )
    stop = threading.Event()

    def told(number: int, frame: FrameType | None) -> None:
        if stop.is_set():
            # told twice: at once
            raise SystemExit(1)
        stop.set()
        for one in list(sockets.values()):
            if hasattr(one, "pull_trigger"):
                one.pull_trigger()

    def clock() -> None:
        # the first page comes first
        pause = SOON
        while not stop.wait(pause):
            lazy.load_all()
            by_the_clock()
            pause = HOURLY

    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, told)
    ready()
    timed = threading.Thread(target=clock, daemon=True, name="by the clock")
    timed.start()
    try:
        while not stop.is_set():
            wasyncore.loop(timeout=1, use_poll=True, map=sockets, count=1)
        _finish(sockets, timed)
    finally:
        stop.set()
        server.task_dispatcher.shutdown()
        wasyncore.close_all(sockets)


def _finish(sockets: dict[int, wasyncore.dispatcher], timed: threading.Thread) -> None:
    """Listen no more, and go on until every request that is here whole is answered and long work has ended; no longer than LAST."""
    for one in list(sockets.values()):
        if one.accepting:
            # the socket alone: a thread that has answered wakes the loop through what else the listener holds
            wasyncore.dispatcher.close(one)
    until = time.monotonic() + LAST
    while time.monotonic() < until and (_in_hand(sockets) or tasks.running() or timed.is_alive()):
        wasyncore.loop(timeout=0.05, use_poll=True, map=sockets, count=1)


def _in_hand(sockets: Mapping[int, wasyncore.dispatcher]) -> bool:
    """Whether a request that has come whole waits for its answer, or an answer for its reader."""
    return any(getattr(one, "requests", None) or getattr(one, "total_outbufs_len", 0) for one in sockets.values())
