"""The program's own server on the tests' database: what a browser gets in a test is what it gets on a bench, and keeps as long."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from waitress.server import create_server

from idlebench.web.wsgi import application


@contextmanager
def served() -> Iterator[str]:
    """Serve in a thread, at a free port of 127.0.0.1; the address."""
    server = create_server(application, host="127.0.0.1", port=0, threads=6, clear_untrusted_proxy_headers=False)
    thread = threading.Thread(target=server.run, daemon=True, name="server")
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.effective_port}"
    finally:
        server.close()
        thread.join(5)
