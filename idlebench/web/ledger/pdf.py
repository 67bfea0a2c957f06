"""Turning a sheet into PDF, with the app's own styles and fonts and nothing from outside."""

from __future__ import annotations

import logging
import re
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit

from django.contrib.staticfiles import finders
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse


class LocalFiles(URLFetcher):
    """Fetches only what the app itself ships, styles and fonts, from its own files, and the pictures it is given by address."""

    def __init__(self, pictures: Mapping[str, Path | bytes]) -> None:
        super().__init__()
        self.pictures = pictures

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
        address = urlsplit(url).path
        # the same fonts as woff: unpacking the six of a sheet took 0.1 s, and 4 s as woff2
        found = address.removeprefix("/static/").replace(".woff2", ".woff")
        path = self.pictures.get(address) or finders.find(found)
        if not path:
            raise ValueError(f"not served here: {url}")
        if isinstance(path, bytes):
            return URLFetcherResponse(url, path, {"Content-Type": "image/jpeg"})
        kind = {".css": "text/css", ".woff": "font/woff", ".jpg": "image/jpeg"}.get(
            Path(path).suffix, "application/octet-stream"
        )
        return URLFetcherResponse(url, Path(path).read_bytes(), {"Content-Type": kind})


class _Steps(logging.Handler):
    """Hears how far the layout of its own thread is."""

    def __init__(self, tell: Callable[[str], object]) -> None:
        super().__init__(logging.INFO)
        self.tell, self.thread = tell, threading.get_ident()

    def emit(self, record: logging.LogRecord) -> None:
        if record.thread == self.thread:
            self.tell(record.getMessage())


@contextmanager
def _heard(tell: Callable[[str], object]) -> Iterator[None]:
    log, steps = logging.getLogger("weasyprint.progress"), _Steps(tell)
    log.setLevel(logging.INFO)
    log.propagate = False
    log.addHandler(steps)
    try:
        yield
    finally:
        log.removeHandler(steps)


#: The steps of the layout, as its log numbers them, in words.
DOING = {
    1: "reading the sheet", 2: "reading its styles", 3: "applying its styles", 4: "arranging", 5: "setting pages",
    6: "drawing", 7: "finishing",
}  # fmt: skip


def to_pdf(
    html: str,
    tell: Callable[[str, int, int], object] = lambda *step: None,
    pictures: Mapping[str, Path | bytes] | None = None,
) -> bytes:
    """A page of ours as PDF: tagged, its headings as bookmarks, its fonts inside.

    Args:
        pictures: files of pictures in it, or JPEGs themselves, by their addresses.
        tell: told what is being done, the step and their number, from this thread; what it raises ends the work.
    """

    def step(said: str) -> None:
        words = said.split()
        number = int(words[1]) if len(words) > 1 and words[0] == "Step" and words[1].isdigit() else 0
        page = f", page {words[-1]}" if "Page" in words else ""
        if number in DOING:
            tell(DOING[number] + page, number, len(DOING))

    with _heard(step):
        return _drawn(html, pictures or {})


#: On a board a unit is a millimetre, and so is its lettering's.
BOARD = "text { font-size: 3.2px; text-anchor: middle; stroke: none }"


def _drawn(html: str, pictures: Mapping[str, Path | bytes]) -> bytes:
    rules = Path(finders.find("ui/sheet-drawings.css")).read_text(encoding="utf-8")
    html = re.sub(
        r"<svg\b[^>]*>", lambda found: f"{found[0]}<style>{rules}{BOARD if 'board' in found[0] else ''}</style>", html
    )
    page = HTML(string=html, base_url="http://127.0.0.1/", url_fetcher=LocalFiles(pictures))
    return page.write_pdf(pdf_variant="pdf/ua-1", optimize_images=True, jpeg_quality=75, dpi=150)
