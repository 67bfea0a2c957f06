"""Every source in the core names a document or says why it is the workshop's own word; vague ones are refused."""

import re
from pathlib import Path

import pytest

import idlebench.core
from idlebench.core.reckonings import REGISTRY

FILES = [p for p in sorted(Path(idlebench.core.__file__).parent.rglob("*.py")) if p.parent.name != "practice"]
#: Words that name nothing one could look up, and standards that were named for what they do not say.
VAGUE = re.compile(
    r"(?i)usual texts|fuse practice|60127 practice|as practice|60990|60747 pinouts|desktop supplies|common knowledge|clause 5\b|(?<!workshop )"
    r"\bpractice\b(?!\s+import)|workshop practice(?!,? because)|judged from"
)


def flat(path: Path) -> str:
    """A file as running text: comments and strings that go over several lines joined."""
    text = re.sub(r"\n\s*(?:#: |# )?", " ", path.read_text(encoding="utf-8"))
    return re.sub(r'"\s+f?"', "", text)


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.name)
def test_no_source_is_vague(path):
    text = re.sub(r"idlebench\.core\.practice|\.\.practice|core/practice|\bpractice\.", "", flat(path))
    found = [text[max(0, hit.start() - 40) : hit.end() + 40] for hit in VAGUE.finditer(text)]
    assert not found


@pytest.mark.parametrize("item", REGISTRY.values(), ids=lambda item: item.name)
def test_every_calculation_says_where_it_comes_from(item):
    lines = item.run({}).lines
    sources = {line.source for line in lines if line.source}
    assert sources and not any(VAGUE.search(source) for source in sources)
