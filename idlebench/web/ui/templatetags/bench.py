"""Writing values on pages: units, tags, reckoning addresses. No rules here."""

from __future__ import annotations

from datetime import UTC, datetime
from functools import lru_cache
from typing import Any
from urllib.parse import urlencode

from django import template
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape, format_html
from django.utils.safestring import mark_safe

from idlebench.core import refusal
from idlebench.core.board.first_look import BURNS
from idlebench.core.board.roles import ROLES
from idlebench.core.draw.bars import Bar
from idlebench.core.judge.ageing import show_years
from idlebench.core.prove import Check
from idlebench.core.prove.typed_readings import SILENT, TONE
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show
from idlebench.core.wording import many as words_for
from idlebench.core.wording import on_screen

register = template.Library()

#: The gabled tag by verdict: filled, half, struck or outline.
TAGS = {
    "fits": "filled",
    "sound": "filled",
    "passed": "filled",
    "keep": "filled",
    "repair": "filled",
    "wait": "half",
    "donor": "struck",
    "look twice": "half",
    "doubtful": "half",
    "fails": "struck",
    "replace": "struck",
    "failed": "struck",
}


@register.simple_tag(takes_context=True)
def term(context: template.Context, name: str, words: str = "") -> str:
    """A term of the field, in other words where they are given: linked to the glossary where it stands first on the page.

    Raises:
        KeyError: a name that the glossary does not have.
    """
    from idlebench.catalogue.glossary import (
        BY_WORD,
    )  # with the catalogue comes numpy: a page without terms does without it

    found, words = BY_WORD[name.lower()], words or name
    linked = context.render_context.setdefault("linked terms", set())
    if found.key in linked:
        return words
    linked.add(found.key)
    return format_html(
        '<a class="term" href="{}#{}" title="{}">{}</a>', reverse("glossary"), found.key, found.meaning, words
    )


#: The page of the guide for a stage or a room.
GUIDE = {
    "intake": "intake", "survey": "survey", "choose": "choose", "gather": "gather", "swap": "swap",
    "cold": "cold-checks", "power": "first-power", "handover": "hand-over", "shelf": "gather", "calendar": "gather", "practice": "suspects",
    "ledger": "hand-over", "devices": "keeping", "keep": "keeping", "bench": "index", "reckoner": "command-line", "procedures": "swap",
}  # fmt: skip


@register.simple_tag(takes_context=True)
def guide_page(context: template.Context) -> str:
    """The address of the guide's page for the stage or the room of a page."""
    here = context.get("stage") or context.get("room") or "bench"
    return reverse("guide_page", args=[GUIDE.get(here, "index")])


@register.filter
def day(at: float) -> str:
    """A time of the record as a day."""
    when = timezone.localtime(datetime.fromtimestamp(at, UTC))
    return f"{when.day} {when:%b %Y}"


@register.filter
def burn(key: str) -> str:
    """How a screen has burnt in, in words."""
    return BURNS.get(key, key)


register.filter("shown", on_screen)


@register.filter
def about(error: BadInput | None, field: str) -> BadInput | None:
    """What a complaint says of one field."""
    return error.about(field) if isinstance(error, BadInput) else None


@register.filter
def put_right(error: BadInput | None, typed: object) -> tuple[str, ...]:
    """What would do in the place of what was typed, three at most. typed: the text, or what a form of one field sent."""
    if not isinstance(error, BadInput):
        return ()
    text = typed.get(f"r:{error.field}", "") if isinstance(typed, dict) else str(typed or "")
    return refusal.put_right(text, error)[:3]


@register.filter
def lines_put_right(error: BadInput | None, text: object) -> tuple[tuple[str, str], ...]:
    """The same of a field of several lines: the whole text put right, and the line that changed."""
    return refusal.lines_put_right(str(text or ""), error)[:3] if isinstance(error, BadInput) else ()


@register.filter
def about_any(error: BadInput | None, fields: str) -> bool:
    """Whether a complaint speaks of one of some fields, named with blanks between."""
    return isinstance(error, BadInput) and any(error.about(field) for field in fields.split())


@register.filter
def plain(error: object) -> str:
    """A complaint in everyday words."""
    return error.plain if isinstance(error, BadInput) else str(error)


@register.filter
def unit(value: float | None, symbol: str) -> str:
    """A value with its unit, as people read it."""
    return show(value, symbol) if value is not None and value != "" else "–"


@register.filter
def euros(value: float | None) -> str:
    """A price, with the digits that it has: cents, or parts of them."""
    if value is None:
        return "–"
    whole, _, cents = f"{value:.4f}".partition(".")
    return f"€{whole}.{cents.rstrip('0').ljust(2, '0')}"


@register.filter
def price_typed(value: float) -> str:
    """A price as it is typed into a field: the digits that it has, cents at least."""
    return euros(value)[1:]


@register.filter
def many(count: float, word: str) -> str:
    """A count with its word: 1 day, 2 days, 1.5 days."""
    whole = round(count) if abs(count - round(count)) < 0.05 else round(count, 1)
    return words_for(whole, word)


@register.filter
def volts(value: float | None) -> str:
    """Measured volts, with the digits that a rail is judged by."""
    return show(value, "V", 4)


@register.filter
def years(hours: float | None) -> str:
    """Hours of life in years; a dash where none is reckoned."""
    return "–" if hours is None else show_years(hours)


@register.filter
def role_title(name: str) -> str:
    return ROLES[name].title if name in ROLES else name


@register.filter
def shape(verdict: str) -> str:
    """The shape a state is told by."""
    return TAGS.get(verdict, "unset")


@register.filter
def as_read(reading: Any, check: Check) -> str:
    """A reading of a check: as it was typed where it was seen, as a value elsewhere; endless is open."""
    if check.seen or reading.typed in (*TONE, *SILENT):
        return reading.typed
    return "open" if reading.value is None else unit(reading.value, check.unit)


@register.filter
def reading_look(reading: Any) -> str:
    """How a large reading looks, by its state: failed, to be looked at twice, not there yet."""
    return {"failed": "failed", "look twice": "twice"}.get(reading.state, "none" if reading.value is None else "")


@register.simple_tag
def reckon_url(name: str, **inputs: object) -> str:
    """The address of a reckoning with its inputs in it."""
    typed = {
        key: f"{value:.12g}" if isinstance(value, float) else value
        for key, value in inputs.items()
        if value is not None
    }
    return f"{reverse('reckoning', args=[name])}?{urlencode(typed)}"


@register.simple_tag
def check_url(check: Check) -> str:
    """The address of the reckoning behind a check's numbers."""
    return reckon_url(check.reckoning, **dict(check.inputs))


@register.simple_tag
@lru_cache(maxsize=256)
def gable(verdict: str) -> str:
    """The gabled tag: a shape before it is a colour. Made once for each verdict: a page has hundreds."""
    return mark_safe(render_to_string("ui/tag.html", {"shape": TAGS.get(verdict, "unset"), "verdict": verdict}))


@register.simple_tag
def margin_bar(bar: Bar) -> str:
    """A margin bar, its limit as a tick. Written as one text: a page of candidates has fifty."""
    state = ("", "half", "struck")[bar.status]
    tick = f'<rect class="tick" x="{bar.tick}" width="1.6" height="14"/>' if bar.tick is not None else ""
    return mark_safe(
        f'<svg class="margin-bar w-full h-[14px] {state}" viewBox="0 0 100 14" preserveAspectRatio="none" role="img" '
        f'aria-label="{escape(bar.words)}"><rect class="track" y="5" width="100" height="4"/>'
        f'<rect class="fill" y="5" width="{bar.fill}" height="4"/>{tick}</svg>'
    )
