"""Every way that a page itself offers: its links, and its forms with each value of their selects, radios, boxes and buttons."""

from __future__ import annotations

import re
import uuid
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from html.parser import HTMLParser
from urllib.parse import parse_qsl, urlencode, urljoin, urlsplit

from django.http import HttpResponse
from django.test import Client

from tests import snapshots


@dataclass(frozen=True)
class Ask:
    """One request as a page offers it. address: with its query. posted: what is sent, () for a look."""

    address: str
    posted: tuple[tuple[str, str], ...] = ()
    changes: bool = False


@dataclass
class _Form:
    action: str
    post: bool
    plain: list[tuple[str, str]] = field(default_factory=list)
    offered: dict[str, list[str]] = field(default_factory=dict)


#: What may lead somewhere, or is sent.
LEADS = re.compile(r"</?(?:a|form|select|option|button|input|textarea)\b[^>]*>|<[a-z]+\b[^>]*\bhx-get=[^>]*>")


class _Page(HTMLParser):
    """The links and forms of a page; fields outside of a form that name one by its id belong to it."""

    def __init__(self, html: str, address: str) -> None:
        super().__init__(convert_charrefs=True)
        self._at, self._form, self._select, self._named = address, None, "", {}
        self.links: list[str] = []
        self.forms: list[_Form] = []
        # the strokes of the drawings are most of a page, and none of them leads anywhere
        self.feed("".join(LEADS.findall(html)))

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        told = {name: value or "" for name, value in attrs}
        if tag == "a" and told.get("href"):
            self.links.append(told["href"])
        if told.get("hx-get"):
            self.links.append(told["hx-get"])
        if tag == "form":
            self._form = _Form(told.get("action", "") or self._at, told.get("method", "get").lower() == "post")
            self.forms.append(self._form)
            if told.get("id"):
                self._named[told["id"]] = self._form
        form = self._named.get(told["form"]) if told.get("form") else self._form
        name = told.get("name", "")
        if tag == "select":
            self._select = name
            if form and name:
                form.offered[name] = []
        elif tag == "option" and form and self._select:
            form.offered[self._select].append(told.get("value", ""))
        elif form and name and "disabled" not in told:
            if tag == "button" or told.get("type") in ("radio", "checkbox", "submit"):
                form.offered.setdefault(name, []).append(told.get("value", "on"))
            elif told.get("type") != "file":
                form.plain.append((name, told.get("value", "")))

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._form = None
        elif tag == "select":
            self._select = ""


def asks(html: str, address: str) -> Iterator[Ask]:
    """What a page offers, each once: where fields offer values, each value with the first of all others."""
    page = _Page(html, address)
    for link in page.links:
        yield Ask(_here(link, address))
    for form in page.forms:
        usual = {name: values[0] for name, values in form.offered.items() if values}
        ways = [usual] + [{**usual, name: value} for name, values in form.offered.items() for value in values[1:]]
        for way in ways:
            sent = tuple(dict([*form.plain, *way.items()]).items())
            where = _here(form.action, address)
            if form.post:
                yield Ask(where, sent, changes=True)
            else:
                yield Ask(f"{where.partition('?')[0]}?{urlencode(sent)}" if sent else where)


#: A drawing of what has no place: its line would go across the page.
NOWHERE = re.compile(r'<(?:line|path|circle|rect|g|text|polyline|svg)\b[^>]*="[^"]*\b(?:None|nan|inf)\b[^"]*"')
#: What says where a person came from and what the page had seen: it makes no request another one.
NO_VALUE = ("csrfmiddlewaretoken", "next", "back", "seen")


def _same(ask: Ask) -> tuple[object, ...]:
    return ask.address, ask.changes, tuple(sorted(pair for pair in ask.posted if pair[0] not in NO_VALUE))


def _here(link: str, address: str) -> str:
    """A link as an address of ours without its anchor, "" for any other."""
    parts = urlsplit(urljoin(f"http://testserver{address}", link))
    if parts.netloc != "testserver" or parts.path.startswith("/static/"):
        return ""
    query = urlencode(parse_qsl(parts.query, keep_blank_values=True))
    return f"{parts.path}?{query}" if query else parts.path


def walk(client: Client, start: str, inside: Callable[[Ask], bool]) -> tuple[dict[tuple[object, ...], int], list[str]]:
    """Ask for all that can be reached from a page by looking; send what its pages offer, the bench laid back after each.

    Args:
        inside: which requests belong to the walk.

    Returns:
        Each request with what it answered, and those that went wrong, with the page that offered them.
    """
    state = snapshots.kept.made_of() or f"walked {start} {uuid.uuid4().hex}"
    if not snapshots.kept.has(state):
        snapshots.kept.keep(state)
    client.raise_request_exception = False
    found: dict[tuple[object, ...], int] = {}
    wrong: list[str] = []
    looks, sent = deque([(start, Ask(start))]), []

    def answered(source: str, ask: Ask, response: HttpResponse) -> None:
        found[_same(ask)] = response.status_code
        if response.status_code >= 500:
            wrong.append(f"{source} offers {ask}: {response.status_code}")

    while looks:
        source, ask = looks.popleft()
        if _same(ask) in found or not inside(ask):
            continue
        response = client.get(ask.address)
        answered(source, ask, response)
        if response.status_code == 200 and response["Content-Type"].startswith("text/html"):
            page = response.content.decode()
            wrong += [f"{ask.address} draws {told[0]}" for told in NOWHERE.finditer(page)]
            for offered in asks(page, ask.address):
                (sent if offered.changes else looks).append((ask.address, offered))
    for source, ask in sent:
        if _same(ask) not in found and inside(ask):
            answered(source, ask, client.post(ask.address, dict(ask.posted), HTTP_REFERER=f"http://testserver{source}"))
            snapshots.kept.lay_down(state)
    return found, wrong
