"""How long it takes from the command to the first page, on a bench with the demo and on a new one."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request

from asked import asked
from torture import environment, free_port

#: What any program with Django and numpy loads.
BARE = "import django.core.handlers.wsgi, django.db.models, django.template, numpy"
TIMES, ASKED = 5, 2000


def starting(home: str) -> None:
    """Print both, beside what loading Django and numpy alone takes in the same run."""
    with tempfile.TemporaryDirectory(prefix="idlebench-new-") as folder:
        benches = {"with the demo": lambda n: home, "new": lambda n: os.path.join(folder, str(n))}
        for name, place in benches.items():
            bare = min(_seconds([sys.executable, "-c", BARE]) for _ in range(TIMES)) * 1000
            first = min(_first_page(place(n)) for n in range(TIMES)) * 1000
            asked(
                f"serve, a bench {name}: first page after ({first / bare:.1f} × loading Django and numpy)",
                first,
                ASKED,
                "ms",
            )


def _seconds(command: list[str]) -> float:
    start = time.perf_counter()
    subprocess.run(command, check=True)
    return time.perf_counter() - start


def _first_page(home: str) -> float:
    port, start = free_port(), time.perf_counter()
    command = [sys.executable, "-m", "idlebench.cli", "serve", "--port", str(port)]
    with subprocess.Popen(command, env=environment(home), stdout=subprocess.DEVNULL) as server:
        try:
            while True:
                try:
                    with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=30):
                        return time.perf_counter() - start
                except urllib.error.URLError:
                    time.sleep(0.01)
        finally:
            server.terminate()
