# ruff: noqa: E501
"""Hard ground: kills under writes, many clients, hostile requests, two and three at once, a full disk, mangled bundles, attacks, a model.

Run by make torture; bounded, and on 127.0.0.1 only. Each part says what it did and what it found; the last line says whether all held.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import re
import shutil
import signal
import socket
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import traceback
import urllib.parse
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

#: A person's pace, s from a page to the next; and a small disk, MB.
PACE, SMALL = (0.5, 1.5), 64
ROOT = Path(__file__).resolve().parents[1]
IDLEBENCH = [sys.executable, "-m", "idlebench.cli"]


def environment(home: Path) -> dict[str, str]:
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    return env


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return free.getsockname()[1]


def run(home: Path, *args: str) -> subprocess.CompletedProcess:
    return subprocess.run(
        [*IDLEBENCH, *args], env=environment(home), capture_output=True, text=True, check=False, cwd=ROOT
    )


@contextmanager
def served(home: Path, port: int) -> Iterator[subprocess.Popen]:
    with subprocess.Popen(
        [*IDLEBENCH, "serve", "--port", str(port)],
        env=environment(home),
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        cwd=ROOT,
    ) as server:
        try:
            line = server.stdout.readline()
            if b"Idle Bench is on" not in line:
                raise RuntimeError(f"the server did not come up: {line!r}")
            yield server
        finally:
            server.kill()


@contextmanager
def reached(home: Path, port: int) -> Iterator[tuple[int, subprocess.Popen | None]]:
    """The port of a server on a bench: of one that is there already, or of one of its own."""
    if port:
        yield port, None
        return
    port = free_port()
    with served(home, port) as server:
        yield port, server


class Client:
    """A browser of few words: cookies, the form's token, and one connection kept open."""

    def __init__(self, port: int, timeout: float = 30.0) -> None:
        self.port, self.timeout, self.token = port, timeout, ""
        self._line: http.client.HTTPConnection | None = None

    def ask(
        self, method: str, path: str, data: dict[str, str] | bytes | None = None, headers: dict[str, str] | None = None
    ) -> tuple[int, str, bytes]:
        """Status, where it leads, and the page."""
        if self._line is None:
            self._line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=self.timeout)
        sent = {
            "Host": f"127.0.0.1:{self.port}",
            "Cookie": f"csrftoken={self.token}",
            "X-CSRFToken": self.token,
            **(headers or {}),
        }
        body = urllib.parse.urlencode(data) if isinstance(data, dict) else data
        if isinstance(data, dict):
            sent.setdefault("Content-Type", "application/x-www-form-urlencoded")
        try:
            self._line.request(method, path, body, sent)
            answer = self._line.getresponse()
            page = answer.read()
        except (OSError, http.client.HTTPException):
            self.close()
            raise
        if hit := re.search(r"csrftoken=(\w+)", answer.getheader("Set-Cookie") or ""):
            self.token = hit[1]
        return answer.status, answer.getheader("Location") or "", page

    def get(self, path: str) -> tuple[int, str, bytes]:
        return self.ask("GET", path)

    def post(self, path: str, data: dict[str, str]) -> tuple[int, str, bytes]:
        if not self.token:
            self.get("/job/new/")
        return self.ask("POST", path, data)

    def __enter__(self) -> Client:
        return self

    def __exit__(self, *error: object) -> None:
        self.close()

    def close(self) -> None:
        if self._line is not None:
            self._line.close()
        self._line = None


def rows(home: Path, sql: str) -> list[tuple]:
    with closing(sqlite3.connect(home / "bench.sqlite3")) as db:
        return db.execute(sql).fetchall()


def new_board(client: Client) -> int:
    """A job with a unit and a board on an empty bench; the board."""
    _, where, _ = client.post(
        "/job/new/",
        {
            "name": "Torture",
            "machine": "Rack",
            "units": "A",
            "mains_volts": "230",
            "mains_frequency": "50",
            "meter_frequency": "120",
            "hour_rate": "20",
            "policy": "renew",
            "school": "strict",
            "way": "lamp",
        },
    )
    unit = int(re.search(r"/unit/(\d+)/", where)[1])
    client.post(f"/unit/{unit}/board/", {"name": "B-1", "width": "200", "height": "150"})
    _, _, page = client.get(f"/unit/{unit}/intake/")
    return int(re.search(rb"/board/(\d+)/survey/", page)[1])


def kills(home: Path, times: int, dice: random.Random) -> list[str]:
    """Kill the server at random moments under writes: what was acknowledged is there once, and the bench opens again."""
    wrong: list[str] = []
    port, acknowledged, asked, unknown, board = free_port(), set(), 0, set(), 0
    for turn in range(times):
        with served(home, port) as server, Client(port, 10) as client:
            board = board or new_board(client)
            moment = time.monotonic() + dice.uniform(0.0, 0.35)
            killer = threading.Timer(
                max(0.0, moment - time.monotonic()), lambda server=server: server.send_signal(signal.SIGKILL)
            )
            try:
                # the first page may come late on a busy machine, or not at all: that is no fault of what was written
                client.get(f"/board/{board}/survey/")
                killer.start()
                while True:
                    asked += 1
                    ref = f"C{asked}"
                    unknown.add(ref)
                    status, _, _ = client.post(f"/board/{board}/survey/", {"line": f"{ref} 10u 16V 5x11"})
                    if status == 302:
                        acknowledged.add(ref)
                        unknown.discard(ref)
                    else:
                        wrong.append(f"turn {turn}: status {status}")
                        break
            except (OSError, http.client.HTTPException):
                pass
            finally:
                server.send_signal(signal.SIGKILL)
                killer.cancel()
        if turn % 10 == 9 or turn == times - 1:
            there = [ref for (ref,) in rows(home, "SELECT ref FROM survey_part")]
            if len(there) != len(set(there)):
                wrong.append(f"turn {turn}: doubled")
            if lost := acknowledged - set(there):
                wrong.append(f"turn {turn}: lost {sorted(lost)[:5]}")
            if strange := set(there) - acknowledged - unknown:
                wrong.append(f"turn {turn}: nobody asked for {sorted(strange)[:5]}")
            if rows(home, "PRAGMA integrity_check") != [("ok",)]:
                wrong.append(f"turn {turn}: the database is not whole")
    entries = rows(home, "SELECT COUNT(*) FROM survey_historicalpart WHERE history_type = '+'")[0][0]
    parts = rows(home, "SELECT COUNT(*) FROM survey_part")[0][0]
    if entries != parts:
        wrong.append(f"{parts} parts and {entries} beginnings of their history: half of one was written")
    if list(home.rglob("*.part")) and run(home, "backup", str(home.parent / "after-kills.zip")).returncode:
        wrong.append("no backup can be made of it")
    print(f"  {times} kills: {asked} parts sent, {len(acknowledged)} acknowledged, {parts} there")
    return wrong


PAGES = (
    "/",
    "/shelf/",
    "/ledger/",
    "/reckoner/",
    "/find/?q=C1",
    "/unit/1/cold/",
    "/unit/2/intake/",
    "/board/4/survey/?part=C5",
    "/unit/2/gather/",
)


def crowd(home: Path, clients: int, seconds: float, dice: random.Random) -> list[str]:
    """Many people reading and writing for a while, a page a second each: no error, and the slow end not far from one alone."""
    wrong: list[str] = []
    port = free_port()
    with served(home, port), Client(port) as alone:
        single: list[float] = []
        for _ in range(5):
            for path in PAGES:
                start = time.perf_counter()
                status, _, _ = alone.get(path)
                single.append(time.perf_counter() - start)
                if status != 200:
                    wrong.append(f"{path}: {status}")
        single = single[len(PAGES) :]
        taken: list[float] = []
        lock, until = threading.Lock(), time.monotonic() + seconds

        def one(number: int) -> None:
            own, mine = random.Random(number), []
            with Client(port) as client:
                crowded(client, own, mine)
            with lock:
                taken.extend(mine)

        def crowded(client: Client, own: random.Random, mine: list[float]) -> None:
            while time.monotonic() < until:
                time.sleep(own.uniform(*PACE))
                path = own.choice(PAGES)
                start = time.perf_counter()
                try:
                    if own.random() < 0.2:
                        status, _, page = client.post(
                            "/unit/3/intake/", {"serial": f"S{own.randrange(999)}", "symptoms": "none"}
                        )
                        good = status == 302
                    else:
                        status, _, page = client.get(path)
                        good = status == 200
                except (OSError, http.client.HTTPException) as error:
                    status, good, page = 0, False, repr(error).encode()
                mine.append(time.perf_counter() - start)
                if not good:
                    with lock:
                        wrong.append(f"{path}: {status} {page[:80]!r}")

        threads = [threading.Thread(target=one, args=(n,)) for n in range(clients)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    median, slow = statistics.median(single), sorted(taken)[int(len(taken) * 0.95)]
    print(
        f"  {clients} clients, {seconds:.0f} s, {len(taken)} requests: one alone {median * 1000:.0f} ms, p95 of the crowd {slow * 1000:.0f} ms, {slow / median:.1f} × (asked: 5)"
    )
    return wrong


JUNK = (
    "", "\x00", "-1", "0", "1e999", "NaN", "9" * 40, "x" * 5000, "<script>alert(1)</script>", "' OR 1=1 --", "../../etc/passwd", "%00", "\u202e",
    "𝕏" * 50, "1;2;3", "=cmd()", "{{7*7}}", "C1", "p5", "b1", "yes", "full", "limited", "cold.mains", "{}", "[]", "null", "\r\nSet-Cookie: a=b",
)  # fmt: skip


def routes() -> list[str]:
    """Every address of the program with spots for what varies."""
    code = (
        "import django; django.setup()\nfrom django.urls import get_resolver\n"
        "def walk(r, before=''):\n"
        "    for one in r.url_patterns:\n"
        "        here = before + str(one.pattern)\n"
        "        yield from walk(one, here) if hasattr(one, 'url_patterns') else [here]\n"
        "print(*walk(get_resolver()), sep='\\n')"
    )
    with tempfile.TemporaryDirectory() as home:
        env = {**environment(Path(home)), "DJANGO_SETTINGS_MODULE": "idlebench.web.settings"}
        done = subprocess.run(
            [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True, cwd=ROOT
        )
    return done.stdout.split()


def hostile(home: Path, count: int, dice: random.Random, port: int = 0) -> list[str]:
    """Hostile requests over every route: whatever is sent, the program answers, and never with a 500. port: of a server that runs."""
    wrong: list[str] = []
    known, seen = routes(), {}
    fields = ["line", "lines", "place", "item", "key", "step", "check", "reason", "part", "unit", "name", "do", "may", "code", "r:cold.mains", "table",
              "value", "text", "to", "named", "seen", "asked", "photo", "pixels", "what", "q", "page", "said", "rows", "side", "words", "ref", "replace"]  # fmt: skip
    with reached(home, port) as (port, server), Client(port) as client:
        client.get("/job/new/")
        for n in range(count):
            route = known[n % len(known)]
            path = "/" + re.sub(
                r"<\w+:(\w+)>",
                lambda hit: (
                    str(dice.choice((1, 2, 3, 4, 0, 99, 10**12)))
                    if hit[1] == "pk"
                    else dice.choice(
                        (
                            "unit",
                            "job",
                            "discharge",
                            "a.zip",
                            "C1",
                            "renew",
                            urllib.parse.quote(dice.choice(JUNK), safe=""),
                        )
                    )
                ),
                route,
            )
            data = {name: dice.choice(JUNK) for name in dice.sample(fields, dice.randrange(0, 9))}
            kind = dice.random()
            try:
                if kind < 0.4:
                    status, _, page = client.ask("GET", f"{path}?{urllib.parse.urlencode(data, errors='replace')}")
                elif kind < 0.8:
                    status, _, page = client.ask("POST", path, data)
                elif kind < 0.9:
                    body = bytes(dice.randrange(256) for _ in range(dice.randrange(400)))
                    status, _, page = client.ask(
                        "POST",
                        path,
                        body,
                        {
                            "Content-Type": dice.choice(
                                ("multipart/form-data; boundary=x", "application/json", "text/plain", "x" * 300)
                            )
                        },
                    )
                else:
                    odd = dice.choice(
                        (
                            {"Host": "evil.test"},
                            {"Origin": "http://evil.test"},
                            {"Referer": "http://evil.test/"},
                            {"X-Forwarded-For": "10.0.0.9"},
                            {"Cookie": "sessionid=x; csrftoken=;;;=\x7f"},
                            {"HX-Request": "true", "HX-Target": "<"},
                            {"Accept-Language": "x" * 4000},
                        )
                    )
                    status, _, page = client.ask(
                        dice.choice(("GET", "POST", "PUT", "DELETE", "PATCH", "OPTIONS", "HEAD")), path, data, odd
                    )
            except (OSError, http.client.HTTPException) as error:
                wrong.append(f"{path}: {error!r}")
                continue
            seen[status] = seen.get(status, 0) + 1
            if status >= 500 and status not in (501, 503):
                wrong.append(f"{path}: {status} for {data}")
            if b"Traceback (most recent call last)" in page:
                wrong.append(f"{path}: a traceback for {data}")
        if server and server.poll() is not None:
            wrong.append("the server ended")
        if client.get("/")[0] != 200:
            wrong.append("the Bench does not answer any more")
    live = rows(home, "SELECT COUNT(*) FROM proving_powersession WHERE ended IS NULL")[0][0]
    if live > 1:
        wrong.append(f"{live} units live at once")
    print(f"  {count} hostile requests over {len(known)} routes: {dict(sorted(seen.items()))}")
    return wrong


def pairs(home: Path, times: int, dice: random.Random, port: int = 0) -> list[str]:
    """Two requests at the same moment against each gate: never both, never a 500. port: of a server that runs."""
    wrong: list[str] = []
    outcomes: dict[int, int] = {}
    with reached(home, port) as (port, _), Client(port) as one, Client(port) as other:
        one.get("/job/new/")
        other.get("/job/new/")
        unit, board = 2, 3
        check = re.search(rb'name="r:(cold\.discharge\.p\d+)"', one.get(f"/unit/{unit}/cold/")[2])
        discharge = check[1].decode() if check else "cold.mains"
        _, _, page = one.get(f"/board/{board}/swap/")
        ref = (re.search(rb'name="(?:place|ref)" value="(C\d+)"', page) or [b"", b"C1"])[1].decode()
        acts: dict[str, tuple[str, dict[str, str]]] = {
            "reading fails": (f"/unit/{unit}/reading/", {f"r:{discharge}": "300"}),
            "reading passes": (f"/unit/{unit}/reading/", {f"r:{discharge}": "0.2"}),
            "power": (f"/unit/{unit}/power/on/", {"step": "limited", "asked": "99999"}),
            "swap": (f"/board/{board}/swap/done/", {"place": ref}),
            "edit": (f"/board/{board}/survey/", {"line": f"{ref} 47u 35V", "change": "on"}),
            "hand-over": (f"/unit/{unit}/handover/", {}),
            "remove": (f"/remove/part/{dice.randrange(50, 60)}/", {}),
            "describe": (f"/unit/{unit}/intake/", {"serial": "7"}),
            "idle": ("/idle/", {}),
        }
        names = list(acts)
        for _ in range(times):
            first, second = dice.choice(names), dice.choice(names)
            found: list[int] = [0, 0]

            def send(i: int, client: Client, name: str, found: list[int] = found) -> None:
                try:
                    found[i] = client.post(*acts[name])[0]
                except (OSError, http.client.HTTPException) as error:
                    wrong.append(f"{name}: {error!r}")

            threads = [
                threading.Thread(target=send, args=(0, one, first)),
                threading.Thread(target=send, args=(1, other, second)),
            ]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            for name, status in zip((first, second), found, strict=True):
                outcomes[status] = outcomes.get(status, 0) + 1
                if status >= 500:
                    wrong.append(f"{first} with {second}: {name} gave {status}")
            live = rows(home, f"SELECT COUNT(*) FROM proving_powersession WHERE ended IS NULL AND unit_id = {unit}")[0][
                0
            ]
            if live:
                wrong.append(f"{first} with {second}: unit B, whose cold checks are open, has power")
    handed = rows(home, f"SELECT handed_over FROM jobs_unit WHERE id = {unit}")[0][0]
    if handed:
        wrong.append("a unit that is not proven was handed over")
    print(f"  {times} pairs of {len(names)} acts at once: {dict(sorted(outcomes.items()))}")
    return wrong


def triples(home: Path, times: int, dice: random.Random, port: int = 0, every: int = 1) -> list[str]:
    """Every route three times at once, then triples of acts by seed: never a 500, never two live machines, nothing closed unproven.

    Args:
        times: triples of acts. port: of a server that runs. every: which share of the routes.
    """
    wrong: list[str] = []
    outcomes: dict[int, int] = {}
    with reached(home, port) as (port, _):
        clients = [Client(port) for _ in range(3)]
        for client in clients:
            client.get("/job/new/")

        def at_once(sent: list[tuple[str, str, dict[str, str]]]) -> None:
            found = [0, 0, 0]

            def send(i: int) -> None:
                method, path, data = sent[i]
                try:
                    found[i] = clients[i].ask(method, path, data if method == "POST" else None)[0]
                except (OSError, http.client.HTTPException) as error:
                    wrong.append(f"{method} {path}: {error!r}")

            threads = [threading.Thread(target=send, args=(i,)) for i in range(3)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            for (method, path, _), status in zip(sent, found, strict=True):
                outcomes[status] = outcomes.get(status, 0) + 1
                if status >= 500 and status not in (501, 503):
                    wrong.append(f"{method} {path}, three at once: {status}")

        known = routes()[:: max(1, every)]
        for route in known:
            path = "/" + re.sub(
                r"<\w+:(\w+)>", lambda hit: str(dice.choice((1, 2, 3))) if hit[1] == "pk" else "x", route
            )
            for method in ("GET", "POST"):
                at_once([(method, path, {"line": "C5 47u", "row": "p1", "reason": "three at once"})] * 3)
        for _ in range(times):
            at_once([("POST", *_act(dice)) for _ in range(3)])
            live = rows(home, "SELECT COUNT(*) FROM proving_powersession WHERE ended IS NULL")[0][0]
            if live > 1:
                wrong.append(f"{live} machines live at once")
        for client in clients:
            client.close()
    if rows(home, "SELECT COUNT(*) FROM jobs_unit WHERE handed_over IS NOT NULL AND id = 2")[0][0]:
        wrong.append("unit B, which is not proven, was handed over")
    if rows(home, "PRAGMA integrity_check") != [("ok",)]:
        wrong.append("the database is not whole")
    print(f"  {len(known)} routes three times at once, {times} triples of acts: {dict(sorted(outcomes.items()))}")
    return wrong


def _act(dice: random.Random) -> tuple[str, dict[str, str]]:
    """Something that touches a machine of the demo."""
    unit, board, part = dice.choice((1, 2, 3)), dice.choice((2, 3, 4, 5, 6)), dice.randrange(40, 120)
    return dice.choice(
        (
            (f"/unit/{unit}/reading/", {"r:cold.mains": dice.choice(("231", "0", "x"))}),
            (f"/unit/{unit}/power/on/", {"step": dice.choice(("limited", "full", "feed")), "asked": "99999"}),
            (f"/unit/{unit}/override/", {"check": "cold.look.loose", "reason": "nobody looks in there"}),
            (f"/board/{board}/swap/done/", {"place": f"C{dice.randrange(1, 30)}"}),
            (f"/board/{board}/mend/", {"mend": "a joint made new"}),
            (f"/board/{board}/survey/", {"line": f"C{dice.randrange(1, 30)} missing", "change": "on"}),
            (f"/board/{board}/move/", {"unit": str(dice.choice((1, 2, 3)))}),
            (f"/remove/part/{part}/", {}),
            (f"/remove/board/{board}/", {}),
            (f"/removed/{dice.randrange(1, 9)}/back/", {}),
            (f"/unit/{unit}/store/", {"row": f"p{part}", "reason": "it was scrapped long ago"}),
            (f"/unit/{unit}/confirm-imported/", {"by": "Nobody", "reason": "because I say so"}),
            (f"/unit/{unit}/handover/", {}),
            ("/idle/", {"session": str(dice.randrange(0, 6))}),
        )
    )


def tests_of(names: list[str], sequences: int = 0) -> list[str]:
    """Tests of the suite, run here in larger numbers: each is named that does not hold."""
    env = {**os.environ, "IDLEBENCH_SEQUENCES": str(sequences)} if sequences else dict(os.environ)
    env.pop("DJANGO_SETTINGS_MODULE", None)
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-n", "2", *names],
        env=env,
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
    )
    last = [line for line in done.stdout.splitlines() if " passed" in line or " failed" in line]
    dots = sum(line.count(".") for line in done.stdout.splitlines() if set(line.split("[")[0].strip()) <= set(".sF"))
    print(f"  {last[-1].strip('= ') if last else f'{dots} passed'}")
    failed = [line for line in done.stdout.splitlines() if line.startswith(("FAILED", "ERROR"))]
    return failed or ([] if done.returncode == 0 else [done.stdout[-600:] + done.stderr[-300:]])


def attacks(share: int) -> list[str]:
    """The attacks that once opened a gate: procedures, removing, moving, restore, clocks, two devices' idle, bundles forged by rule."""
    return tests_of(["tests/web/test_gates_hold.py", *(["tests/web/test_at_once.py"] if share == 1 else [])])


def model(share: int) -> list[str]:
    """Random sequences of the services, held against what is truly charged, wet and live."""
    return tests_of(["tests/web/test_true_state.py"], 200 // share)


@contextmanager
def small_disk(megabytes: int) -> Iterator[Path | None]:
    """A file system of a few megabytes; None where none can be mounted."""
    place = Path(tempfile.mkdtemp(prefix="idlebench-small-"))
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={megabytes}m", "tmpfs", str(place)], capture_output=True, check=False
    )
    try:
        yield place if made.returncode == 0 else None
    finally:
        if made.returncode == 0:
            subprocess.run(["umount", "-l", str(place)], check=False)
        shutil.rmtree(place, ignore_errors=True)


def full_disk(demo: Path, dice: random.Random) -> list[str]:
    """A bench on a disk that fills up: clear pages, nothing half-written, and it goes on when there is room again."""
    wrong: list[str] = []
    with small_disk(SMALL) as disk:
        if disk is None:
            print("  no small file system can be mounted here: left out")
            return ["left out: no small file system can be mounted here"]
        home, port = disk / "home", free_port()
        shutil.copytree(demo, home)
        filler, statuses = disk / "filler", {}
        with served(home, port), Client(port) as client:
            client.get("/job/new/")
            before = rows(home, "SELECT COUNT(*) FROM survey_part")[0][0]
            with filler.open("wb", buffering=0) as out:
                try:
                    while True:
                        out.write(bytes(4096))
                except OSError:
                    pass
            acknowledged = 0
            for n in range(60):
                status, _, page = client.post("/board/3/survey/", {"line": f"C{800 + n} 10u 16V {'x' * 200} note"})
                statuses[status] = statuses.get(status, 0) + 1
                acknowledged += status == 302
                if status >= 500 and status not in (503, 507):
                    wrong.append(f"full: {status} {page[:100]!r}")
                if status == 507 and b"The disk is full" not in page:
                    wrong.append("full: no clear page")
            if client.get("/")[0] not in (200, 503, 507):
                wrong.append("full: the Bench is gone")
            made = run(home, "backup", str(disk / "b.zip"))
            if made.returncode != 2 or "Traceback" in made.stderr or (disk / "b.zip").exists():
                wrong.append(f"full: a backup said {made.returncode} {made.stderr[-200:]}")
            filler.unlink()
            there = rows(home, "SELECT COUNT(*) FROM survey_part")[0][0]
            if there != before + acknowledged:
                wrong.append(f"full: {before} parts before, {acknowledged} acknowledged, {there} there")
            if client.post("/board/3/survey/", {"line": "C999 10u 16V"})[0] != 302:
                wrong.append("with room again it does not go on")
        if rows(home, "PRAGMA integrity_check") != [("ok",)]:
            wrong.append("full: the database is not whole")
        print(
            f"  a full disk of {SMALL} MB: {dict(sorted(statuses.items()))}, {acknowledged} acknowledged, all of them there"
        )
    return wrong


MANGLE = """
import json, random, sys, django
django.setup()
from pathlib import Path
from idlebench.core.refusal import BadInput
from idlebench.web.keep.bundle import take_in
from idlebench.web.records.models import Job
good, count, seed = Path(sys.argv[1]).read_bytes(), int(sys.argv[2]), int(sys.argv[3])
dice, path, told = random.Random(seed), Path(sys.argv[1]).with_suffix(".mangled.zip"), {"refused": 0, "taken": 0, "wrong": []}
import io, zipfile
from django.test import Client
client = Client(SERVER_NAME="127.0.0.1", raise_request_exception=False)
def inside(data):
    # mangled inside its files, with sums that are right
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        victim = dice.choice([n for n in old.namelist() if not n.endswith(".jpg")])
        for name in old.namelist():
            piece = bytearray(old.read(name))
            if name == victim and piece:
                for _ in range(dice.randrange(1, 4)):
                    if not piece: break
                    at = dice.randrange(len(piece))
                    what = dice.random()
                    if what < 0.4: piece[at] = dice.randrange(256)
                    elif what < 0.7: del piece[at:at + dice.randrange(1, 30)]
                    else: piece[at:at] = dice.choice((b"[", b'"', b",", b"-", b"9" * 20, b"\\x00", b"\\n", b"null", b"{}", b"1e999"))
            new.writestr(name, bytes(piece))
    return out.getvalue()
for n in range(count):
    before = Job.objects.count()
    if dice.random() < 0.6:
        data = inside(good)
    else:
        data = bytearray(good)
        if dice.random() < 0.2: data = data[: dice.randrange(len(data))]
        for _ in range(dice.randrange(1, 8)):
            if data: data[dice.randrange(len(data))] = dice.randrange(256)
    path.write_bytes(bytes(data))
    try:
        job = take_in(path)
        told["taken"] += 1
        for unit in job.units.all():
            pages = [f"/unit/{unit.pk}/{page}/" for page in ("intake", "gather", "cold", "power", "handover", "photos", "dismantling")]
            for board in unit.boards.all():
                pages += [f"/board/{board.pk}/{page}/" for page in ("survey", "choose", "swap", "measure", "supply")]
            for page in [*pages, "/", f"/job/{job.pk}/triage/", f"/job/{job.pk}/side-by-side/", "/ledger/"]:
                status = client.get(page).status_code
                if status >= 500: told["wrong"].append(f"{page}: {status} on a mangled job that was taken")
        job.delete()
    except BadInput as error:
        told["refused"] += 1
        if "\\n" in str(error) or Job.objects.count() != before: told["wrong"].append(str(error)[:200])
    except Exception as error:
        told["wrong"].append(f"{type(error).__name__}: {error}"[:200])
print(json.dumps(told))
"""


def mangled(demo: Path, work: Path, count: int, dice: random.Random) -> list[str]:
    """Mangled bundles: each is one clear line or a job that can be judged, and never a traceback."""
    bundle = work / "job.zip"
    if run(demo, "export", "1", "-o", str(bundle)).returncode:
        return ["the demo's job does not leave"]
    env = {**environment(demo), "DJANGO_SETTINGS_MODULE": "idlebench.web.settings"}
    done = subprocess.run(
        [sys.executable, "-c", MANGLE, str(bundle), str(count), str(dice.randrange(10**6))],
        env=env,
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
    )
    if done.returncode:
        return [done.stderr[-600:]]
    told = json.loads(done.stdout)
    print(f"  {count} mangled bundles: {told['refused']} refused in one line, {told['taken']} taken and judged")
    return told["wrong"]


def in_two(part: Callable[[int, random.Random], list[str]], dice: random.Random) -> list[str]:
    """A part in two halves at once, one for each core, each with dice of its own."""
    found: list[str] = []
    lanes = [(number, random.Random(dice.randrange(10**9))) for number in (1, 2)]

    def one(number: int, own: random.Random) -> None:
        try:
            found.extend(part(number, own))
        except Exception as error:
            found.append(f"{type(error).__name__}: {error}")

    threads = [threading.Thread(target=one, args=lane) for lane in lanes]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--short", action="store_true", help="a tenth of everything")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("parts", nargs="*")
    args = parser.parse_args()
    share, dice, found = 10 if args.short else 1, random.Random(args.seed), []
    with tempfile.TemporaryDirectory(prefix="idlebench-torture-") as place:
        work = Path(place)
        demo = work / "demo"
        if run(demo, "demo").returncode:
            print("the demo does not load")
            return 1

        def fresh(name: str) -> Path:
            shutil.copytree(demo, work / name)
            return work / name

        told = {
            "kills": kills, "crowd": crowd, "hostile": hostile, "pairs": pairs, "triples": triples, "full": full_disk, "mangled": mangled,
            "attacks": attacks, "model": model,
        }  # fmt: skip
        parts: dict[str, tuple[str, Callable[[], list[str]]]] = {
            "kills": (
                f"{200 // share} kills, nothing lost",
                lambda: in_two(lambda n, own: kills(work / f"killed{n}", 100 // share, own), dice),
            ),
            "crowd": ("8 clients, no error", lambda: crowd(fresh("crowd"), 8, 60 / share, dice)),
            "hostile": (
                f"{10_000 // share} requests, no 500",
                lambda: in_two(lambda n, own: hostile(fresh(f"hostile{n}"), 5000 // share, own), dice),
            ),
            "pairs": (f"{400 // share} pairs, no way round", lambda: pairs(fresh("pairs"), 400 // share, dice)),
            "triples": (
                f"each route and {500 // share} triples",
                lambda: triples(fresh("triples"), 500 // share, dice, every=share),
            ),
            "full": ("a disk that fills up", lambda: full_disk(fresh("full"), dice)),
            "mangled": (
                f"{2000 // share} bundles, one line each",
                lambda: in_two(
                    lambda n, own: mangled(fresh(f"mangled{n}"), work / f"mangled{n}", 1000 // share, own), dice
                ),
            ),
            "attacks": ("every attack refused", lambda: attacks(share)),
            "model": (f"{200 // share} sequences", lambda: model(share)),
        }
        table: list[tuple[str, str, str, str]] = []
        for name, (asked, part) in parts.items():
            if args.parts and name not in args.parts:
                continue
            print(f"{name}: {(told[name].__doc__ or '').strip().partition(chr(10))[0]}", flush=True)
            start = time.monotonic()
            try:
                wrong = part()
            except Exception as error:  # whatever happens to one part, the others are still asked
                wrong = [f"{type(error).__name__}: {error}"]
                traceback.print_exc()
            found += [f"{name}: {one}" for one in wrong]
            for one in wrong[:12]:
                print(f"  WRONG {one}", flush=True)
            measured = f"{len(wrong)} wrong, {time.monotonic() - start:.0f} s"
            table.append((name, asked, measured, "holds" if not wrong else "DOES NOT HOLD"))
    print(f"\n{'part':<10}{'asked':<36}{'measured':<20}")
    for name, asked, measured, holds in table:
        print(f"{name:<10}{asked:<36}{measured:<20}{holds}")
    print("the whole sheet held" if not found else f"{len(found)} things did not hold")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
