"""The simulated bench on a TCP port of 127.0.0.1: any VISA client can talk to it, as to a real instrument."""

from __future__ import annotations

import socketserver
import threading
from typing import Self

from idlebench.core.simulate.scpi import Instruments
from idlebench.core.simulate.sitting import Sitting

#: The longest line that is listened to, bytes.
LONGEST = 1000


class _Talk(socketserver.StreamRequestHandler):
    """One client; each command or question is a line."""

    server: BenchServer

    def handle(self) -> None:
        mine = Instruments(self.server.sitting)
        while line := self.rfile.readline(LONGEST):
            with self.server.lock:
                answer = mine.answer(line.decode("ascii", "replace"))
            if answer is not None:
                try:
                    self.wfile.write(answer + b"\n")
                except OSError:
                    return


class BenchServer(socketserver.ThreadingTCPServer):
    """The bench of a sitting. In a ``with`` it serves beside the rest until the end of it. One supply, whoever asks."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, sitting: Sitting, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Talk)
        self.sitting, self.lock = sitting, threading.Lock()

    @property
    def address(self) -> str:
        """Where it listens, as a person types it."""
        return f"127.0.0.1:{self.server_address[1]}"

    def __enter__(self) -> Self:
        threading.Thread(target=self.serve_forever, args=(0.05,), daemon=True).start()
        return self

    def __exit__(self, *what: object) -> None:
        self.shutdown()
        self.server_close()
