"""Turning a sheet into PDF, with the app's own styles and fonts and nothing from outside."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlsplit

from django.contrib.staticfiles import finders
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse


class LocalFiles(URLFetcher):
    """Fetches only what the app itself ships, styles and fonts, from its own files."""

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
        name = urlsplit(url).path.removeprefix("/static/")
        path = finders.find(name)
        if not path:
            raise ValueError(f"not served here: {url}")
        kind = {".css": "text/css", ".woff2": "font/woff2"}.get(Path(path).suffix, "application/octet-stream")
        return URLFetcherResponse(url, Path(path).read_bytes(), {"Content-Type": kind})


def to_pdf(html: str) -> bytes:
    """A page of ours as PDF."""
    return HTML(string=html, base_url="http://127.0.0.1/", url_fetcher=LocalFiles()).write_pdf()
