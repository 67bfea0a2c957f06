"""Rows of checks, each written once for what it shows: a page has sixty, and from one page to the next one of them is another."""

from __future__ import annotations

import secrets
import threading
from collections import OrderedDict

from django import template
from django.template.context import Context
from django.template.loader import get_template
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from ..check_rows import CheckRow

register = template.Library()
#: Stands for the token of a form in a row that is kept; drawn by lot, so that no text can hold it.
TOKEN = f"~{secrets.token_hex(16)}~"
MOST = 2000
#: What a row is drawn by beside its check and its reading; each says how the page means it.
WORDS, FLAGS = ("back", "shown_step"), ("gate", "is_live", "plain", "in_list")

_kept: OrderedDict[tuple[object, ...], str] = OrderedDict()
_lock = threading.Lock()


@register.filter
def typed_for(typed: object, key: str) -> str:
    """What was typed for a check in a form that was refused, so that it comes back filled."""
    return typed.get(f"r:{key}", "") if isinstance(typed, dict) else ""


@register.simple_tag(takes_context=True)
def check_row(context: Context, row: CheckRow, **told: object) -> SafeString:
    """A check as a row of a list: its reading, its state, and a form for it."""
    facts = {**context.flatten(), **told, "row": row}
    if _is_special(row.check.key, facts):
        return mark_safe(get_template("proving/check.html").template.render(context.new(facts)))
    state = facts["state"]
    said = (*(facts.get(name) for name in WORDS), *(bool(facts.get(name)) for name in FLAGS))
    key = (*row.shows, state.row.pk, state.job.meter, *said)
    with _lock:
        text = _kept.get(key)
        if text is not None:
            _kept.move_to_end(key)
    if text is None:
        text = get_template("proving/check.html").template.render(context.new({**facts, "csrf_token": TOKEN}))
        with _lock:
            _kept[key] = text
            while len(_kept) > MOST:
                _kept.popitem(last=False)
    return mark_safe(text.replace(TOKEN, escape(str(facts.get("csrf_token", "")))))


def _is_special(key: str, facts: dict[str, object]) -> bool:
    """Whether the page does something with this row that it does with no other: the next, the one refused, the one at the meter."""
    named = (facts.get("following"), facts.get("by_meter"), getattr(facts.get("lead"), "check", None))
    return facts.get("bad_key") == key or any(getattr(getattr(one, "check", one), "key", None) == key for one in named)
