"""What can be checked of our words by machine: no word of the old column, no wrong spelling; long sentences are listed, not refused.

Texts of templates, strings of the program that reach a person, README, CONTRIBUTING and the guide. Words that files, records and typed
lines keep for ever stand in KEPT.
"""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
#: Words of the old column, and what to write.
OLD = {
    r"\bwet (?:part|electrolytic|capacitor)s?\b|\ball wet\b": "electrolytic",
    r"\bstores?\b": "reservoir capacitor, or output capacitor of a converter",
    r"\bdab(?:s|bed|bing)?\b": "mark, mark as fitted",
    r"\bways? up\b": "power-up steps, power-up method",
    r"\bshut\b": "blocked",
    r"\btake (?:it|the first|them|these|this)\b(?! (?:off|out|back|from))": "use",
    r"\bleave the old (?:one|part) in\b|\bleft in\b": "keep the old part, old part kept",
    r"\bsettle the clear\b": "use all clear matches",
    r"\blook twice\b": "check first",
    r"\blies? here\b": "in stock",
    r"\bon (?:its|their) way\b|\bwaited for\b": "on order, expected",
    r"\bmend(?:s|ed|ing)?\b": "repair, correct",
    r"\breckon\w*\b": "calculate, calculator, calculation",
    r"\bput down by mistake\b": "added by mistake",
    r"^whose\b": "owner, author",
    r"\bhours? of hands\b|\bpairs? of hands\b": "bench time, people",
    r"\bas told\b": "as reported",
    r"\bstand-in\b": "simulated meter",
    r"\bfeed the board": "connect the board",
    r"\bweigh(?:s|ed)? (?:the reading|again)\b|\bkeep and weigh\b": "rank",
    r"\bcareful (?:person|way)\b": "reference solution",
    r"\blaid (?:under|down)\b|\blay (?:it )?under\b": "placed under, saved",
    r"\btick:": "confirm:",
    r"\bnext looks?\b": "next inspection",
    r"\bno plan costs less\b": "proven cheapest",
    r"\bproves? nothing\b": "does not count for a real machine",
    r"\bwhence\b|\bbesides\b|\bthither\b|\bof old\b|\bshall\b": "plain words",
}
#: Strings that are typed, stored or read by other programs: they stay as they are.
KEPT = {
    "bulk store", "main store", "output store", "start store", "supply store", "field output store", "field store", "vertical store",
    "video store", "sound store", "look twice", "store", "stores", "memory store", "wet", "lamp store", "joint mended", "mended",
    "wet electrolytic", "way up", "mains or way up",
}  # fmt: skip
#: Files whose strings are no text of ours: the data of the demo, made-up people's own words; typed lines of the practice machines.
NOT_OURS = ("demo/", "migrations/", "catalogue/make")
#: A count that is not made by many(): "1 places".
COUNT = re.compile(
    r"…\s+(?:place|part|reading|check|unit|board|kind|piece|line|screw|plug|clip|rail|parcel|offer|label|capacitor|net|pin)s\b"
)
#: Where a number is a limit, or always several, that is right.
SEVERAL = (
    "at most",
    "1 to …",
    "over …",
    "from …",
    "None of the …",
    "All …",
    "fuses of",
    "… labels: one for each",
    "with … pins",
    "pins in a row",
    "offers the same",
)
#: Words of a sentence over which it is listed.
LONG = 25


def templates() -> Iterator[tuple[str, str]]:
    """Where a text of a template stands, and the text."""
    for path in sorted((ROOT / "idlebench").rglob("*.html")):
        if "/build/" in str(path):
            continue
        whole = path.read_text("utf-8")
        said = re.findall(r'\b(?:placeholder|title|aria-label|alt|data-says|label|hint|words|says)="([^"]*)"', whole)
        bare = re.sub(r"(?s)\{#.*?#\}|<(script|style|svg)\b.*?</\1>", " ", whole)
        # what is typed as an example stands in the letters of numbers
        bare = re.sub(r'(?s)<(\w+)[^>]*class="[^"]*\bnum\b[^"]*"[^>]*>[^<]*</\1>', " ", bare)
        for text in [*re.split(r"(?s)<[^>]*>|\{%.*?%\}", bare), *said]:
            if text.strip():
                yield str(path.relative_to(ROOT)), re.sub(r"\{\{.*?\}\}|\{%.*?%\}", "…", text)


def strings() -> Iterator[tuple[str, str]]:
    """Where a string of the program stands that may reach a person, and the string."""
    for path in sorted((ROOT / "idlebench").rglob("*.py")):
        name = str(path.relative_to(ROOT))
        if any(part in name for part in NOT_OURS):
            continue
        tree = ast.parse(path.read_text("utf-8"))
        skip: set[int] = set()
        for node in ast.walk(tree):
            if isinstance(node, ast.JoinedStr):
                skip |= {id(value) for value in node.values}
                parts = [v.value if isinstance(v, ast.Constant) else "…" for v in node.values]
                yield f"{name}:{node.lineno}", "".join(map(str, parts))
            elif isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef)) and ast.get_docstring(node):
                skip.add(id(node.body[0].value))  # type: ignore[attr-defined]
            elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in skip:
                yield f"{name}:{node.lineno}", node.value


def documents() -> Iterator[tuple[str, str]]:
    """Paragraphs of README, CONTRIBUTING and the guide, without what is typed."""
    for path in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").rglob("*.md"))):
        text = re.sub(r"(?sm)^    .*?$|```.*?```|`[^`]*`|\]\([^)]*\)", " ", path.read_text("utf-8"))
        for piece in re.split(r"\n\s*\n|\n[-|*#]", text):
            yield str(path.relative_to(ROOT)), piece


def is_text(string: str) -> bool:
    """Whether a string of the program is written for people: words of a sentence, no line of a supply, no pattern, no SQL."""
    if string.strip() in KEPT or re.search(r"^\s*(SELECT|CREATE|<|\()|\\\\?[bdsw]|\$\d", string):
        return False
    return bool(re.search(r"[a-z]{2,} +[a-z]", string)) and not re.search(
        r"^idlebench [a-z]|^(bridge|rail|monitor|line stage|field output|half|centre|doubler|pad|trace) .*\d", string
    )


def main() -> int:
    """Print what is wrong, and how many sentences are long; 1 where something is wrong."""
    wrong, long = [], []
    texts = [*templates(), *((where, text) for where, text in strings() if is_text(text)), *documents()]
    for where, text in texts:
        for old, better in OLD.items():
            if hit := re.search(old, " ".join(text.split()), re.I):
                wrong.append(f"{where}: “{hit[0]}”, write {better}: {' '.join(text.split())[:90]}")
        # "… lines" alone is what was read or the most that is taken, not a sentence
        if (
            COUNT.search(text)
            and not any(word in text for word in SEVERAL)
            and not re.fullmatch(r"… \w+", text.strip())
        ):
            wrong.append(f"{where}: a count without many(): {' '.join(text.split())[:90]}")
        for sentence in re.split(r"(?<=[.:;?])\s", text):
            if len(re.findall(r"[A-Za-z]{2,}", sentence)) > LONG:
                long.append(f"{where}: {' '.join(sentence.split())[:100]}")
    spelling = subprocess.run(
        [sys.executable, "-m", "codespell_lib", "--ignore-words", "tools/field-words.txt",
         "--skip", "*/build/*,*.csv,*.json,*.pyc,*.png,*.sqlite3,*.woff2",
         "idlebench", "README.md", "CONTRIBUTING.md", "CHANGELOG.md", "docs"],
        cwd=ROOT, capture_output=True, text=True, check=False,
    )  # fmt: skip
    wrong += spelling.stdout.splitlines()
    print("\n".join(wrong))
    if "--long" in sys.argv:
        print("\n".join(long))
    print(f"{len(texts)} texts, {len(wrong)} wrong, {len(long)} sentences over {LONG} words (--long lists them)")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
