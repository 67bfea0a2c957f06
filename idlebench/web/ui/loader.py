"""Templates are laid out for whoever reads them, and sent without that: their line breaks and indentation go as they are loaded."""

from __future__ import annotations

import re

from django.template import Origin
from django.template.loaders.app_directories import Loader as AppDirectories

#: Elements beside which white space says nothing.
_BLOCKS = (
    "body|caption|circle|col|colgroup|dd|defs|details|dialog|div|dl|dt|fieldset|figcaption|figure|footer|form|g|h1|h2|h3|head|header"
    "|hr|html|legend|li|line|link|main|meta|nav|ol|optgroup|option|p|path|pattern|polyline|rect|script|section|summary|table|tbody|td"
    "|tfoot|th|thead|title|tr|ul"
)
_RAW = re.compile(r"(<(pre|textarea)\b.*?</\2>)", re.DOTALL)
_BREAK = re.compile(r"\s*\n\s*")
_BEFORE = re.compile(rf"[ ](?=</?(?:{_BLOCKS})\b)")
_NAME = re.compile(rf"</?(?:{_BLOCKS})\b")


def squeezed(text: str) -> str:
    """A template without its layout: each break of a line is one space, and none beside a block; `pre` and `textarea` stay.

    >>> squeezed('<div>\\n  <p class="a\\n    b">x <b>y</b>,\\n  z</p>\\n</div>')
    '<div><p class="a b">x <b>y</b>, z</p></div>'
    """
    pieces = _RAW.split(text)
    found = []
    for i in range(0, len(pieces), 3):
        found.append(_after_blocks(_BEFORE.sub("", _BREAK.sub(" ", pieces[i]))))
        found.append(pieces[i + 1] if i + 1 < len(pieces) else "")
    return "".join(found).strip()


def _after_blocks(text: str) -> str:
    """The text without a space after a tag of a block."""
    found, begin = [], 0
    for at in re.finditer("> ", text):
        opened = text.rfind("<", begin, at.start())
        tag = text[opened : at.start()] if opened >= 0 else ""
        if _NAME.match(tag) and tag.count("{%") == tag.count("%}"):
            found.append(text[begin : at.start() + 1])
            begin = at.end()
    return "".join((*found, text[begin:]))


class Loader(AppDirectories):
    """The templates of all rooms, squeezed."""

    def get_contents(self, origin: Origin) -> str:
        """The text of a template as it is compiled."""
        return squeezed(super().get_contents(origin))
