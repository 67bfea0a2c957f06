"""Starting and stopping: a new bench, views that load late, the browser, a stop that finishes what is in hand, a computer without Pango."""

import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest
from django.urls import get_resolver, reverse

from idlebench import cli
from idlebench.commands import serving
from idlebench.web.ledger import pango
from idlebench.web.records import empty
from idlebench.web.ui.lazy import LazyViews

ROOT = Path(__file__).resolve().parents[2]
MADE_BY_CHANGES = "from idlebench.web.records import empty; empty.begin = lambda home: False; from idlebench.commands.opening import migrated; migrated()"


def of_bench(place: Path) -> tuple[set[tuple], set[tuple]]:
    """The tables, indexes and triggers of a bench, and what stands on its shelf."""
    with closing(sqlite3.connect(place)) as db:
        shapes = set(db.execute("SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_%'"))
        return shapes, set(db.execute("SELECT part, series, value, volts FROM shelf_catalogueitem"))


def test_a_new_bench_is_what_all_changes_of_tables_make(tmp_path):
    assert empty.fitting().exists(), "make set-up makes the empty bench of this version"
    long, short = tmp_path / "long", tmp_path / "short"
    env = {**os.environ, "IDLEBENCH_HOME": str(long)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    subprocess.run([sys.executable, "-c", MADE_BY_CHANGES], env=env, check=True, cwd=ROOT)
    short.mkdir()
    assert empty.begin(short) and of_bench(short / "bench.sqlite3") == of_bench(long / "bench.sqlite3")
    assert not list(short.glob("*.part")) and not empty.begin(short), "a bench that is there is left alone"


def test_no_empty_bench_no_harm(tmp_path, monkeypatch):
    monkeypatch.setattr(empty, "fitting", lambda: tmp_path / "none")
    assert not empty.begin(tmp_path) and list(tmp_path.iterdir()) == []
    whole = tmp_path / "whole"
    whole.write_bytes(b"x" * 5000)
    monkeypatch.setattr(empty, "fitting", lambda: whole)
    monkeypatch.setattr(shutil, "copyfile", lambda *names: (_ for _ in ()).throw(OSError("no room")))
    assert not empty.begin(tmp_path) and not (tmp_path / "bench.sqlite3").exists()


def views(resolver):
    for one in resolver.url_patterns:
        yield from views(one) if hasattr(one, "url_patterns") else [one.callback]


def test_every_address_has_a_view():
    late = [view for view in views(get_resolver()) if view.__module__.startswith("idlebench.")]
    assert len(late) > 150
    for view in late:
        assert callable(LazyViews(view.__module__).named(view.__name__)), view


def test_the_version_is_told(capsys):
    with pytest.raises(SystemExit) as ended:
        cli.main(["--version"])
    assert ended.value.code == 0 and capsys.readouterr().out == f"Idle Bench {cli.__version__}\n"


def test_a_computer_without_a_browser_is_told_the_address(capsys, monkeypatch):
    monkeypatch.setattr(serving.webbrowser, "open", lambda page: False)
    serving._open_browser("http://127.0.0.1:8000/")
    assert "Open http://127.0.0.1:8000/ in one" in capsys.readouterr().err


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT])
def test_told_to_stop_it_finishes_what_is_in_hand(demo_home, tmp_path, number):
    home = tmp_path / "home"
    shutil.copytree(demo_home, home)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    command = [sys.executable, "-m", "idlebench.cli", "serve", "--port", str(port)]
    with subprocess.Popen(command, env=env, cwd=ROOT, stdout=subprocess.PIPE, text=True) as server:
        assert "Idle Bench is on" in server.stdout.readline()

        def asked(path: str) -> socket.socket:
            line = socket.create_connection(("127.0.0.1", port), timeout=30)
            line.sendall(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n".encode())
            return line

        def answer(line: socket.socket) -> bytes:
            with line:
                return b"".join(iter(lambda: line.recv(65536), b""))

        sheet = asked("/unit/1/handover.pdf")
        # answered after it, so the sheet has come whole by now
        assert b"200 OK" in answer(asked("/licences/"))
        server.send_signal(number)
        told = answer(sheet)
        assert told.startswith(b"HTTP/1.1 200 OK") and b"%PDF" in told and told.rstrip().endswith(b"%%EOF")
        assert server.wait(30) == 0
    with pytest.raises(OSError):
        socket.create_connection(("127.0.0.1", port), timeout=5)


@pytest.mark.django_db
def test_without_pango_the_page_says_what_to_install(client, unit, monkeypatch):
    page = reverse("handover", args=[unit.pk])
    assert "needs Pango" not in client.get(page).content.decode() and pango.missing() is None
    monkeypatch.setattr(pango, "LIBRARIES", (("libnothing-of-this-name.so.0",),))
    pango.missing.cache_clear()
    try:
        shown = client.get(page).content.decode()
        assert (
            "PDF needs Pango" in shown and pango.INSTALL in shown and reverse("sheet_pdf", args=[unit.pk]) not in shown
        )
        for which in ("sheet_pdf", "owner_pdf"):
            for ask in (client.get, client.post):
                refused = ask(reverse(which, args=[unit.pk]))
                assert refused.status_code == 409 and pango.INSTALL in refused.content.decode()
        assert client.get(reverse("sheet", args=[unit.pk])).status_code == 200, "it prints from the browser"
    finally:
        pango.missing.cache_clear()


@pytest.mark.django_db
def test_licences_of_all_that_comes_along_are_on_a_page(client):
    shown = client.get(reverse("licences")).content.decode()
    for name, words in (
        ("htmx.org", "Zero-Clause BSD"),
        ("@alpinejs/csp", "MIT License"),
        ("dejavu-sans", "Fonts are (c) Bitstream"),
    ):
        assert name in shown and words in shown, name
    assert reverse("licences") in client.get(reverse("backups")).content.decode()
