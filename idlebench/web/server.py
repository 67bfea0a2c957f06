"""Serving a bench: a server that takes a request whole before a thread sees it, so that no slow or stuck client holds one."""

from __future__ import annotations

import signal
import threading
from collections.abc import Callable
from types import FrameType

from waitress.server import create_server

from .wsgi import application

#: Requests answered at once, and connections held open at once.
THREADS, CONNECTIONS = 8, 500
#: How long a silent connection is kept, and how often that is looked at, s.
SILENCE, LOOK = 30, 5
#: The largest request that is taken in at all, bytes; a photo or a table is refused by its own limit before.
LARGEST = 300_000_000
#: How often what is done by the clock is looked at, s.
HOURLY = 3600.0


def serve(addresses: list[str], port: int, by_the_clock: Callable[[], object], ready: Callable[[], object]) -> None:
    """Serve until the process is told to stop.

    Args:
        addresses: to listen on. by_the_clock: done at the start and then every hour, in a thread of its own. ready: called
            when it listens.
    """
    server = create_server(
        application,
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

    def ended(number: int, frame: FrameType | None) -> None:
        raise SystemExit(0)

    def clock() -> None:
        while True:
            by_the_clock()
            if stop.wait(HOURLY):
                return

    signal.signal(signal.SIGTERM, ended)
    ready()
    threading.Thread(target=clock, daemon=True, name="by the clock").start()
    try:
        server.run()
    finally:
        stop.set()
        server.close()
