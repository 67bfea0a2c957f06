"""Nets: which pins belong together, from a table or from an IPC-D-356 netlist, and what they tell of chips and parts.

Source: IPC-D-356A, records 317 (through hole) and 327 (surface mount), by their columns.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ..refusal import BadInput
from ..wording import many
from .csvtable import Problem, choice, decode, read_table, words
from .rails_and_chips import Chip, Pin, rail_name

#: Words of a table's third column and what they make of a pin.
USES = ("ground", "supply", "clock", "activity", "signal")
COLUMNS = (
    words("net", "name of the net", 40, required=True),
    words("ref", "reference of the chip or part", 12, required=True),
    words("pin", "pin", 6, required=True),
    choice("use", USES, "function of the pin, if the net's name does not give it"),
)
_GROUND = re.compile(r"[/_]*(?:D|A|P|S)?(?:GND|GROUND|0V|VSS|COM|EARTH)\d?", re.I)
_SUPPLY = re.compile(r"[/_]*([+\-−]?)(?:V)?(\d{1,3})V?(\d{0,2})V?", re.I)
_CLOCK = re.compile(r"(?:.*[_/])?(?:CLK|CLOCK|XTAL|PHI|OSC)\w{0,4}", re.I)
#: Most records that are read.
MOST = 20_000


@dataclass(frozen=True)
class Node:
    """A pin of a net. use: one of USES, "" where only the net's name is known."""

    net: str
    ref: str
    pin: str
    use: str = ""


@dataclass(frozen=True)
class Nets:
    """What a file gave: its nodes, the lines that could not be read, and the nets whose use was not told by their name."""

    nodes: tuple[Node, ...]
    problems: tuple[Problem, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(n.net for n in self.nodes))

    def of(self, net: str) -> tuple[Node, ...]:
        return tuple(n for n in self.nodes if n.net == net)


def use_of(net: str) -> tuple[str, str]:
    """What the name of a net tells: (use, rail). ("", "") where it tells nothing.

    >>> use_of('GND'), use_of('+5V'), use_of('-12V'), use_of('3V3'), use_of('CLK'), use_of('D7')
    (('ground', ''), ('supply', '+5 V'), ('supply', '−12 V'), ('supply', '+3.3 V'), ('clock', ''), ('', ''))
    """
    name = net.strip()
    if _GROUND.fullmatch(name):
        return "ground", ""
    if (hit := _SUPPLY.fullmatch(name)) and "v" in name.lower():
        volts = float(f"{hit[2]}.{hit[3] or 0}") * (-1 if hit[1] in ("-", "−") else 1)
        return ("supply", rail_name(volts)) if volts else ("ground", "")
    return ("clock", "") if _CLOCK.fullmatch(name) else ("", "")


def joined_by(nodes: Iterable[Node]) -> dict[str, frozenset[str]]:
    """What is on one net with a part, by reference; ground and supplies join everything, and are left out.

    >>> some = [Node('N1', 'C5', '1'), Node('N1', 'U2', '7'), Node('GND', 'C5', '2'), Node('GND', 'U9', '8')]
    >>> sorted((ref, sorted(others)) for ref, others in joined_by(some).items())
    [('C5', ['U2']), ('U2', ['C5'])]
    """
    nets: dict[str, set[str]] = {}
    for node in nodes:
        if (node.use or use_of(node.net)[0]) not in ("ground", "supply"):
            nets.setdefault(node.net, set()).add(node.ref)
    found: dict[str, set[str]] = {}
    for refs in nets.values():
        for ref in refs:
            found.setdefault(ref, set()).update(refs - {ref})
    return {ref: frozenset(others) for ref, others in found.items() if others}


def read_nets(data: bytes | str) -> Nets:
    """Read a netlist: IPC-D-356 where it looks like one, else a table with net, ref, pin and perhaps use.

    Args:
        data: the file's bytes.

    Returns:
        Nodes by net.

    Raises:
        BadInput: neither of the two.
    """
    text = decode(data)
    if re.search(r"(?m)^(?:[CP]  |3[12]7)", text):
        return _read_ipc(text)
    table = read_table(text, COLUMNS)
    nodes = tuple(Node(r["net"], r["ref"].upper(), r["pin"], r["use"] or "") for r in table.rows)
    return Nets(nodes, tuple(table.problems))


def _read_ipc(text: str) -> Nets:
    """The nodes of an IPC-D-356 netlist: net in columns 4–17, reference in 21–26, pin in 28–31."""
    nodes, problems = [], []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.startswith(("317", "327")):
            continue
        if len(nodes) >= MOST:
            raise BadInput(f"over {MOST} records", f"at most {MOST}", "Split the netlist.", field="file")
        net, ref, dash, pin = line[3:17].strip(), line[20:26].strip(), line[26:27], line[27:31].strip()
        if ref.upper() == "VIA":
            continue
        if not net or not ref or not pin or dash != "-":
            problems.append(
                Problem(
                    number, "record", line[:31].strip(), "net in columns 4 to 17, reference in 21 to 26, a dash, pin"
                )
            )
        elif net.upper() != "N/C":
            nodes.append(Node(net, ref.upper(), pin))
    if not nodes:
        raise BadInput("an IPC-D-356 file without pins", "records that begin with 317 or 327", field="file")
    return Nets(tuple(nodes), tuple(problems))


def write_nets(nodes: Iterable[Node]) -> str:
    """Nodes as the table that reads back the same."""
    from .csvtable import write_table

    return write_table(COLUMNS, ({"net": n.net, "ref": n.ref, "pin": n.pin, "use": n.use} for n in nodes))


@dataclass(frozen=True)
class Wired:
    """What nets tell: the chips with their pins, the rail of each part that stands on one, and the words for it."""

    chips: tuple[Chip, ...]
    rails: dict[str, str]
    said: tuple[str, ...]


def wire(nets: Nets, chips: Sequence[Chip], parts: Iterable[str]) -> Wired:
    """Give chips the pins that nets tell, and parts their rail. Pins that a chip has already stay as they are.

    Args:
        nets: the board's nets.
        chips: the board's chips; one that only the nets name is added when it has a supply pin.
        parts: references of the capacitors listed.

    Returns:
        Chips and parts with what their nets tell, and what did not fit.
    """
    known = {c.ref: c for c in chips}
    listed = set(parts)
    rails: dict[str, str] = {}
    added = 0
    for node in nets.nodes:
        use, rail = use_of(node.net)
        use = node.use or use
        if node.ref in listed:
            if use == "supply" and rail:
                rails.setdefault(node.ref, rail)
            continue
        if not use or use == "signal" or not re.fullmatch(r"(?:U|IC)\d{1,4}[A-Z]?", node.ref):
            continue
        if use == "supply" and not rail:
            continue
        if not re.fullmatch(r"[A-Za-z]?\d{1,3}", node.pin):
            continue
        chip = known.get(node.ref) or Chip(ref=node.ref, label="", width=20.0, height=8.0)
        if node.pin not in {p.number for p in chip.pins}:
            known[node.ref] = replace(chip, pins=(*chip.pins, Pin(node.pin, use, rail)))
            added += 1
    said = (
        f"{many(len(nets.names), 'net')} read",
        f"{many(added, 'pin')} to test",
        f"{many(len(rails), 'part')} on a known rail",
    )
    unclear = [n.net for n in nets.nodes if n.use == "supply" and not use_of(n.net)[1]]
    if unclear:
        names = ", ".join(dict.fromkeys(unclear))
        said = (*said, f"which volts has {names}? Name it like +5V")
    return Wired(tuple(known.values()), rails, said)
