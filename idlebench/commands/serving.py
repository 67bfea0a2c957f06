"""``idlebench serve``, ``stand-in`` and ``demo``: the bench itself, a simulated meter, and the demo."""

from __future__ import annotations

import argparse
import os
import re
import socket
import sys
import threading
import webbrowser

from ..core.refusal import BadInput
from .opening import migrated
from .ports import LAST, a_port

PORT = 8000
#: This machine as it calls itself; nothing is asked of who comes from here.
LOCAL = "127.0.0.1"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add what it is asked by."""
    serve = commands.add_parser("serve", help="serve your own bench on 127.0.0.1")
    serve.add_argument("--port", type=a_port, default=PORT, help="from 1 to 65535")
    serve.add_argument(
        "--address", default="127.0.0.1", help="this computer's address in the workshop network, for a phone"
    )
    serve.add_argument("--open", action="store_true", help="open the browser on it")
    serve.set_defaults(run=_serve)
    meter = commands.add_parser(
        "stand-in", help="a simulated LCR meter on 127.0.0.1, to try a meter without having one"
    )
    meter.add_argument("--port", type=a_port, default=5025, help="from 1 to 65535")
    meter.set_defaults(run=_stand_in)
    demo = commands.add_parser("demo", help="load the demo into the database in use, for a bench that is empty")
    demo.set_defaults(run=_demo)


def _serve(args: argparse.Namespace) -> int:
    if not re.fullmatch(r"\d{1,3}(\.\d{1,3}){3}", args.address) or args.address == "0.0.0.0":
        raise BadInput(args.address, "this computer's own address, such as 192.168.1.20", field="address")
    # one above it; a port that only an administrator may use, or the last of all, gives way to the usual one
    other = args.port + 1 if 1024 <= args.port < LAST else PORT
    if not all(port_free(args.port, address) for address in {LOCAL, args.address}):
        print(
            f"idlebench: the address {args.address}:{args.port} is in use, may not be used, or is not this "
            f"computer's. Stop the other program, or use --port {other} (make demo PORT={other}).",
            file=sys.stderr,
        )
        return 1
    from ..web import home

    os.environ["IDLEBENCH_ADDRESS"] = args.address if args.address != LOCAL else ""
    folder = home.place()
    home.prepare(folder)
    with home.HomeLock(folder, f"process {os.getpid()} on http://{LOCAL}:{args.port}/"):
        home.sweep_halves(folder)
        migrated()
        from ..web.keep.automatic_backups import by_the_clock, sweep_unclaimed
        from ..web.unit.power_note import looked_at

        sweep_unclaimed()
        if words := looked_at():
            print(f"idlebench: {words}. Measure every reservoir capacitor again before any work.", file=sys.stderr)
        from ..web.server import serve

        also = (
            f", and on http://{args.address}:{args.port}/ for devices that are paired" if args.address != LOCAL else ""
        )
        page = f"http://{LOCAL}:{args.port}/"

        def ready() -> None:
            print(f"Idle Bench is on {page}{also} (stop with Ctrl+C)", flush=True)
            if args.open:
                # in a thread: a browser that runs in this terminal comes back only when it is closed
                threading.Thread(target=_open_browser, args=(page,), daemon=True, name="browser").start()

        serve(list(dict.fromkeys([LOCAL, args.address])), args.port, by_the_clock, ready)
    return 0


def _open_browser(page: str) -> None:
    if not webbrowser.open(page):
        print(f"idlebench: no browser could be opened here. Open {page} in one.", file=sys.stderr)


def port_free(port: int, address: str = "127.0.0.1") -> bool:
    """Whether a server can listen at this address and port."""
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind((address, port))
        except OSError:
            return False
    return True


def _stand_in(args: argparse.Namespace) -> int:
    from ..instruments import StandIn

    if not port_free(args.port):
        raise BadInput(str(args.port), "a free port", "Use another with --port.", field="port")
    with StandIn(args.port) as server:
        print(f"The simulated meter listens on {server.address} (stop with Ctrl+C)", flush=True)
        try:
            threading.Event().wait()
        except KeyboardInterrupt:
            print()
    return 0


def _demo(args: argparse.Namespace) -> int:
    migrated()
    from idlebench.web.keep.demo import load_demo

    print(load_demo())
    return 0
