"""A bench of its own with the demo on it, for measuring and for pictures; gone afterwards."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

#: How Chromium is started where there is no screen and no network.
CHROMIUM = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]


@contextmanager
def demo_home() -> Iterator[Path]:
    """A temporary IDLEBENCH_HOME with the demo loaded and Django set up on it."""
    with tempfile.TemporaryDirectory(prefix="idlebench-") as home:
        os.environ["IDLEBENCH_HOME"] = home
        os.environ["DJANGO_SETTINGS_MODULE"] = "idlebench.web.settings"
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # a browser is driven in the same process
        import django

        django.setup()
        from django.core.management import call_command

        from idlebench.web.keep.demo import load_demo

        call_command("migrate", verbosity=0)
        load_demo()
        yield Path(home)


@contextmanager
def served(home: str) -> Iterator[str]:
    """The bench in a home served on 127.0.0.1 as people serve it; its address."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "idlebench.cli", "serve", "--port", str(port)]
    server = subprocess.Popen(command, env={**os.environ, "IDLEBENCH_HOME": home}, stdout=subprocess.DEVNULL)
    try:
        _wait(f"http://127.0.0.1:{port}/")
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait()


def _wait(address: str) -> None:
    for _ in range(100):
        try:
            with urllib.request.urlopen(address):
                return
        except OSError:
            time.sleep(0.1)
    sys.exit("idlebench: the server did not come up")
