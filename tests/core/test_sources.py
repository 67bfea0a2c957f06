"""Every source in the core names a document or says why it is the workshop's own word; vague ones are refused."""

import ast
import itertools
import re
from pathlib import Path

import pytest

import idlebench.core
from idlebench.core.calculators import REGISTRY

FILES = [p for p in sorted(Path(idlebench.core.__file__).parent.rglob("*.py")) if p.parent.name != "practice"]
#: Words that name nothing one could look up, and standards that were named for what they do not say.
VAGUE = re.compile(
    r"(?i)usual texts|fuse practice|60127 practice|as practice|60990|60747 pinouts|desktop supplies|common knowledge|60065[^;.]{0,20}clause 5\b|worked here(?! from)|(?<!workshop )"
    r"\bpractice\b(?!\s+import)|workshop practice(?!,? because)|judged from(?! \.)"
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


#: A standard, and what follows its name: year, then a clause, a table or what the part of it is called.
STANDARD = re.compile(r"\b(?:(?:IEC|UL|EN|ISO)\s\d[\d-]*|JIS C \d+-\d|EIA-\d+[-\w]*)(.{0,16})", re.S)
FULL = re.compile(r":(?:19|20)\d\d\b")
#: Folders in which every number judges something, and those whose numbers are sizes of a drawing, limits of a file or the like.
JUDGING = ("board", "choose", "circuit", "faults", "judge", "prove", "simulate")
NOT_JUDGING = {"column_map.py", "copies.py", "profile.py", "tables.py", "device_tables.py", "dismantle.py"}


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.name)
def test_a_standard_is_named_with_its_year(path):
    found = [hit[0] for hit in STANDARD.finditer(flat(path)) if not FULL.match(hit[1])]
    assert not found


def numbers_without_a_source(path: Path) -> list[str]:
    """Constants of a module that hold numbers and of which neither the module nor the comment above says where they come from."""
    text = path.read_text(encoding="utf-8")
    tree, lines, found = ast.parse(text), text.splitlines(), []
    if re.search(r"Sources?:\s\S", ast.get_docstring(tree) or ""):
        return []
    for node in tree.body:
        if not isinstance(node, ast.Assign) or not any(
            isinstance(c, ast.Constant) and type(c.value) in (int, float) for c in ast.walk(node.value)
        ):
            continue
        above = "".join(itertools.takewhile(lambda line: line.startswith("#"), reversed(lines[: node.lineno - 1])))
        if not re.search(r"because|\d{4}\b.*\d", above):
            found.append(ast.unparse(node.targets[0]))
    return found


@pytest.mark.parametrize(
    "path", [p for p in FILES if p.parent.name in JUDGING and p.name not in NOT_JUDGING], ids=lambda p: p.name
)
def test_every_number_that_judges_says_where_it_comes_from(path):
    assert not numbers_without_a_source(path)


def test_a_number_without_a_source_is_found(tmp_path):
    module = tmp_path / "limits.py"
    module.write_text(
        '"""Limits."""\n\n#: The most, V.\nMOST = 10.0\n#: Workshop practice, because it is small.\nLEAST = 1.0\n'
    )
    assert numbers_without_a_source(module) == ["MOST"]
    module.write_text('"""Limits.\n\nSource: IEC 60038:2009, table 1.\n"""\n\nMOST = 10.0\n')
    assert not numbers_without_a_source(module)
