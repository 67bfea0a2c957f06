"""Run by the Python of a fresh environment, with no network but this machine's own loopback: starts the installed program as a new
user would, and opens one page of each kind that can be reached from the Bench, with all that it asks for. Prints what it found as JSON.

Usage: python walk.py HOME PORT
"""

from __future__ import annotations

import fcntl
import json
import os
import re
import signal
import socket
import struct
import subprocess
import sys
import time
import urllib.error
import urllib.request
from html.parser import HTMLParser
from pathlib import Path

BIN = Path(sys.executable).parent


class Links(HTMLParser):
    """What a page leads to, and its kind made with."""

    def __init__(self) -> None:
        super().__init__()
        self.pages: list[str] = []
        self.files: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = dict(attrs)
        if tag == "a" and found.get("href"):
            self.pages.append(found["href"])
        for name in ("src", "href") if tag in ("script", "link", "img") else ():
            if found.get(name):
                self.files.append(found[name])


def loopback_up() -> None:
    """Switch on the loopback of a network that has nothing else."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as s:
        fcntl.ioctl(s, 0x8914, struct.pack("16sh14x", b"lo", 1 | 64))


def reached_outside() -> bool:
    """Whether anything but this machine can be reached."""
    try:
        socket.create_connection(("192.0.2.1", 443), timeout=1).close()
    except OSError as error:
        return "unreachable" not in str(error)
    return True


def get(address: str) -> tuple[int, bytes]:
    try:
        with urllib.request.urlopen(address, timeout=30) as page:
            return page.status, page.read()
    except urllib.error.HTTPError as error:
        return error.code, error.read()


def walk(base: str) -> dict[str, object]:
    """Open one page of each kind, from the Bench on."""
    waiting, kinds, files, wrong = ["/"], set(), set(), []
    while waiting:
        path = waiting.pop(0)
        kind = re.sub(r"\d+", "1", path.split("?")[0])
        if kind in kinds:
            continue
        kinds.add(kind)
        status, page = get(base + path)
        if status != 200:
            wrong.append(f"{path}: {status}")
        if b"<html" not in page[:2000]:
            continue
        links = Links()
        links.feed(page.decode())
        waiting += [p for p in links.pages if p.startswith("/") and not p.startswith("/static/")]
        files |= set(links.files)
        wrong += [f"{path} leads to {p}" for p in (*links.pages, *links.files) if "://" in p]
    for file in sorted(f for f in files if f.startswith("/")):
        status, text = get(base + file)
        if status != 200 or not text:
            wrong.append(f"{file}: {status}")
        for font in re.findall(rb"url\(([^)]+\.woff2)\)", text) if file.endswith(".css") else ():
            status, _ = get(base + file.rsplit("/", 1)[0] + "/" + font.decode().strip("\"'"))
            if status != 200:
                wrong.append(f"{font!r} of {file}: {status}")
    return {"kinds": sorted(kinds), "files": len(files), "wrong": wrong}


def main(home: str, port: str) -> None:
    loopback_up()
    env = {"PATH": str(BIN), "IDLEBENCH_HOME": home, "HOME": home}

    def run(*words: str) -> subprocess.CompletedProcess:
        return subprocess.run([BIN / "idlebench", *words], env=env, capture_output=True, text=True, check=False)

    told = {"outside": reached_outside(), "version": run("--version").stdout.strip()}
    demo = run("demo")
    told |= {"demo": demo.stdout + demo.stderr}
    begun = time.monotonic()
    words = [BIN / "idlebench", "serve", "--port", port]
    with subprocess.Popen(words, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) as server:
        told["says"] = server.stdout.readline()
        status, _ = get(f"http://127.0.0.1:{port}/")
        told |= {"first": status, "seconds": time.monotonic() - begun}
        told |= walk(f"http://127.0.0.1:{port}")
        server.send_signal(signal.SIGTERM)
        told["after"] = server.stdout.read()
    told["stopped"] = server.returncode
    print(json.dumps(told))


if __name__ == "__main__":
    os.chdir("/")
    main(*sys.argv[1:])
