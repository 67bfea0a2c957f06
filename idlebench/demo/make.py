"""Writes the demo job from typed lines, as a person at the bench would have typed them. Everything in it is invented.

Run ``python demo/make.py`` after a change. Readings of the unit that is handed over are made inside their limits.
"""

from __future__ import annotations

import csv
import json
import random
import zlib
from dataclasses import replace
from pathlib import Path

from PIL import Image, ImageDraw

from idlebench.catalogue import house_columns, make_others
from idlebench.catalogue.make import house_parts
from idlebench.core import prove
from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.quickline import read_line
from idlebench.core.board.square_up import square_up
from idlebench.core.board.tables import PLAN, READINGS, STOCK, SURVEY, write_survey
from idlebench.core.board.zones import read_zone, tell
from idlebench.core.choose.plan import make_plan
from idlebench.core.choose.supply_model import places_of, read_model, tell_supply
from idlebench.core.prove.cold_mains import LEADS, SPREAD
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.text.csvtable import schema, write_table
from idlebench.core.text.nets import COLUMNS as NETS
from idlebench.core.text.nets import Node, write_nets
from idlebench.core.text.rails_and_chips import read_chip, read_rail

HERE = Path(__file__).parent / "skerry-point"
MADE, NOW = 1984, 2026

CHIPS = """
J1 power in 17x46 at 17,43
U1 processor 46x14 at 101,27 gnd 20 +5V 40 clock 18 moves 33,34
U2 video 43x14 at 157,27 gnd 1 +5V 21 clock 14
U5 memory 15x35 at 82,72 gnd 16 +5V 8
U6 memory 15x35 at 102,72 gnd 16 +5V 8
U7 memory 15x35 at 122,72 gnd 16 +5V 8
U8 memory 15x35 at 142,72 gnd 16 +5V 8
U9 memory 15x35 at 162,72 gnd 16 +5V 8
U10 memory 15x35 at 182,72 gnd 16 +5V 8
U11 memory 15x35 at 202,72 gnd 16 +5V 8
U12 memory 15x35 at 222,72 gnd 16 +5V 8
U20 sound 37x15 at 38,120 gnd 9 +5V 18
U31 I/O 58x17 at 191,122 gnd 24 +5V 48 moves 12
""".strip().splitlines()


def data_lines() -> list[Node]:
    """The eight data lines of the mainboard: processor, video, one memory chip a bit, in and out."""
    return [
        Node(f"D{bit}", ref, pin)
        for bit in range(8)
        for ref, pin in (("U1", str(7 + bit)), ("U2", str(10 + bit)), (f"U{5 + bit}", "2"), (f"U{5 + bit}", "14"))
    ]


# The mainboard as it was made: 41 parts. What was seen and measured differs by unit and follows below.
MB80 = """
C1 2200u 16V 16x25 p7.5 bulk rail +5V worst 5.5 at 39,27 angle 270 series KV
C2 2200u 16V 16x25 p7.5 bulk rail +12V worst 16 at 39,51 angle 270 series KV
C3 470u 16V 10x16 p5 decoupling rail +5V at 40,73 angle 180 series KV
C4 100u 16V 6.3x11 p2.5 decoupling rail +5V at 65,20 angle 180
C5 100u 16V 6.3x11 p2.5 decoupling rail +5V at 65,40 angle 180
C6 22u 16V 5x11 p2 decoupling rail +5V at 128,42
C7 22u 16V 5x11 p2 decoupling rail +5V at 183,42
C8 10u 16V 5x11 p2 decoupling rail +5V at 82,101 angle 180 series MT
C9 10u 16V 5x11 p2 decoupling rail +5V at 102,101 angle 180 series MT
C10 10u 16V 5x11 p2 decoupling rail +5V at 122,101 angle 180 series MT
C11 10u 16V 5x11 p2 decoupling rail +5V at 142,101 angle 180 series MT
C12 10u 16V 5x11 p2 decoupling rail +5V at 162,101 angle 180 series MT
C13 10u 16V 5x11 p2 decoupling rail +5V at 182,101 angle 180 series MT
C14 10u 16V 5x11 p2 decoupling rail +5V at 202,101 angle 180 series MT
C15 10u 16V 5x11 p2 decoupling rail +5V at 222,101 angle 180 series MT
C16 4u7 25V 5x11 p2 reset rail +5V at 65,55
C17 47u 16V 6.3x11 p2.5 decoupling rail +12V at 183,12
C18 220u 16V 8x11.5 p3.5 decoupling rail +12V at 196,24
C19 100u 16V 8x11.5 p3.5 decoupling rail +12V at 210,24 series QF
C20 22u 16V 6.3x11 p2.5 decoupling rail +12V at 224,25
C21 1u 50V 5x11 p2 coupling at 226,42
C22 100u 10V 6.3x11 p2.5 sound store rail +5V at 74,121 angle 90 series QF
C23 100u 10V 6.3x11 p2.5 sound store rail +5V at 89,121 angle 270 series QF
C24 4u7 25V 5x11 p2 coupling at 66,141 angle 180
C25 220u 10V 8x11.5 p3.5 decoupling rail +5V at 32,145 angle 180 series QF
C26 10u 25V bipolar 6.3x11 p2.5 coupling at 50,150
C27 22u 16V 5x11 p2 decoupling rail −12V worst 12 at 108,135 angle 180
C28 22u 16V 5x11 p2 decoupling rail −12V worst 12 at 128,135 angle 180
C29 47u 16V 6.3x11 p2.5 decoupling rail −12V worst 12 at 118,148
C30 47u 16V 6.3x11 p2.5 decoupling rail +12V at 150,143 angle 270
C31 33u 16V 6.3x11 p2.5 decoupling rail +12V at 165,150 angle 270
C32 2u2 50V 5x11 p2 timing at 178,145
C33 100n 63V film 7.2x6.5 p5 filter at 192,145
C34 220n 63V film 7.2x6.5 p5 filter at 205,145
C35 1u 63V film 10x9.5 p7.5 coupling at 222,147
C36 100n 63V film 7.2x6.5 p5 decoupling rail +5V at 14,80
C37 100n 63V film 7.2x6.5 p5 decoupling rail +5V at 14,92
C38 10n 63V film 7.2x6.5 p5 timing at 14,104
C39 220u 25V axial 10x21 decoupling rail +12V at 40,95 angle 180 series AXT
C40 47n 63V film 7.2x6.5 p5 filter at 224,125
C41 10u 35V 5x11 p2 memory backup at 205,160
""".strip().splitlines()

PS2 = """
C1 470n X2 275~ 26.5x19 p22.5 at 16,20
C2 4n7 Y2 250~ 13x11 p10 at 40,12
C3 4n7 Y2 250~ 13x11 p10 at 40,30
C4 100n X2 275~ 18x13.5 p15 at 18,44
C7 220u 400V snap 25x45 p10 105C bulk ambient 50 room 27x50 at 62,26 angle 180
C9 10u 50V 5x11 p2 105C start-up ambient 62 rail driver at 82,14 series QF
C10 47u 25V 6.3x11 p2.5 105C driver ambient 60 at 82,30
C12 1n 1000V film 10x9.5 p7.5 filter at 82,46
C14 2200u 10V 12.5x20 p5 105C converter output rail +5V ambient 60 room 13x26 at 112,20 angle 180 series QF
C15 2200u 10V 12.5x20 p5 105C converter output rail +5V ambient 60 room 13x26 at 128,20 angle 180 series QF
C18 1000u 16V 10x20 p5 105C converter output rail +12V ambient 58 room 12.5x26 at 146,18 angle 180 series QF
C21 100u 25V 8x11.5 p3.5 105C converter output rail −12V ambient 55 at 162,16 angle 180
C24 1u 50V 5x11 p2 feedback ambient 50 at 150,40
C26 470u 16V 10x12.5 p5 105C regulator output rail −5V worst 5 ambient 50 at 164,36
C30 22u 16V 5x11 p2 decoupling rail +5V at 112,44
C31 22u 16V 5x11 p2 decoupling rail +12V at 126,44
C33 4n7 Y2 250~ 13x11 p10 at 96,56
C40 100u 16V 6.3x11 p2.5 decoupling rail +12V at 140,54
""".strip().splitlines()

PS1 = """
C1 4700u 25V 18x35.5 p7.5 bulk rail +5V at 30,30 series KV
C2 1000u 35V 12.5x25 p5 bulk rail +12V at 60,30 series KV
C3 1000u 35V 12.5x25 p5 bulk rail −12V at 84,30 series KV
C4 100u 16V 6.3x11 p2.5 regulator output rail +5V at 110,24
C5 100u 25V 6.3x11 p2.5 regulator output rail +12V at 124,24
C6 100u 25V 6.3x11 p2.5 regulator output rail −12V at 138,24
C7 100n X2 275~ 18x13.5 p15 at 20,66
C8 220n 63V film 7.2x6.5 p5 decoupling rail +5V at 110,44
""".strip().splitlines()

OTHERS = {
    "MB-80": ["BT1 battery 3.6V at 222,163", "D1 diode 1A 100V at 60,62"],
    "PS-1": [
        "VR1 regulator 7805 1A at 130,62", "VR2 regulator 7912 1A at 146,62", "VR3 regulator 7812 1A at 138,76",
        "F1 fuse T 500mA 250V 5x20 at 14,14", "T1 winding 9V 2.8A",
    ],
    "PS-2": ["F1 fuse T 1.6A 250V 5x20 at 30,58", "VR1 regulator 7905 1A at 168,52", "D5 diode 8A 45V at 104,34"],
}  # fmt: skip
ZONES = {
    "MB-80": ["heat 62 sound chip at 70,122 26x26", "drive 22 at 205,146 66x40", "lid 34 at 80,41 150x72"],
    "PS-1": ["heat 65 heatsink of VR1 at 138,58 36x24"],
    "PS-2": ["shield 52 at 88,34 170x62"],
}

SUPPLIES = {
    "PS-1": [
        "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A heatsink 7",
        "centre 15V 12VA reservoir C2 regulator VR3 12V 0.4A heatsink 12",
        "centre 15V 12VA reservoir C3 regulator VR2 -12V 0.2A heatsink 20",
    ],
    "PS-2": [
        "bridge mains 10.6ohm reservoir C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A",
        "rail +5V 3.1A duty 0.47 capacitors C14,C15",
        "rail +12V 0.5A duty 0.47 capacitors C18",
        "rail -12V 0.2A duty 0.47 capacitors C21",
    ],
}

# What was seen on each unit: lines without a value add to the part.
SEEN = {
    "A MB-80": """
C1 looks sound esr 0.05 in circuit
C19 leaking cap 88u
C22 crusty esr 5.9
C23 looks sound esr 3.1
C25 leaking cap 150u
C39 looks sound cap 231u leak 40u
""",
    "A PS-1": """
C1 looks sound cap 4900u esr 0.06 leak 300u
C2 bulging
C3 looks sound cap 1010u esr 0.11
C7 looks sound cap 98n
""",
    "B MB-80": """
C1 leaking esr 0.4 in circuit
C2 looks sound esr 0.11 in circuit
C10 looks sound esr 16 in circuit
C12 looks sound esr 19.5 in circuit
C19 leaking esr 3.9 in circuit
C22 cap 71u esr 6.8 looks sound ambient 62 note 12 mm from the sound chip
C23 looks sound esr 2.4 in circuit
C25 crusty cap 120u esr 4.4 date 9112
C35 leak 9u cap 1.05u looks sound note moulded box, stands where the print shows a stripe
C36 cap 96n looks sound
C37 looks sound cap 97n
C34 cap 23n looks sound note print reads 223
""",
    "B PS-2": """
C1 crusty note crazed case
C7 looks sound cap 205u esr 0.9 leak 0.4m
C9 bulging cap 3.1u esr 22
C14 leaking esr 0.21
C15 looks sound esr 0.034 in circuit
C18 bulging
C24 looks sound cap 0.97u
C30 looks sound esr 3.2 in circuit
""",
}

APART = [
    "lid: 4 screws M4x10, 2 clips, note slides to the back",
    "keyboard: plug J6 to mainboard, 2 screws M3x8",
    "display board cage: 3 screws M3x6, caution sharp inner edge",
    "supply PS: 4 screws M3x12, plug J1 to mainboard, plug J9 from switch, caution stores stay charged, note insulating sheet under it",
]

RAILS2 = [
    "+5 V 3.1 A min 0.5 A",
    "+12 V 0.5 A min 0.15 A",
    "-12 V 0.2 A min 0.1 A ripple 150m",
    "-5 V 0.1 A ripple 100m",
]
RAILS1 = ["+5 V 2 A min 0.3 A", "+12 V 0.4 A", "-12 V 0.2 A"]


def survey(lines: list[str], seen: str) -> list[Fitted]:
    """A board's parts: as made, with what was seen; parts nobody wrote down as odd look sound."""
    parts: dict[str, Fitted] = {}
    for line in lines:
        quick = read_line(line.replace("275~", "").replace("250~", ""))
        parts[quick.ref] = quick.part().with_(date="8421" if quick.changes.get("kind", "wet") == "wet" else "")
    for line in seen.strip().splitlines():
        quick = read_line(line)
        parts[quick.ref] = quick.part(parts[quick.ref])
    return [p if p.looks or p.esr or p.leakage else p.with_(looks="sound") for p in parts.values()]


def table(name: str, columns: list[str], rows: list[list[object]]) -> None:
    with (HERE / name).open("w", newline="", encoding="utf-8") as file:
        csv.writer(file, lineterminator="\n").writerows([columns, *rows])


def to_replace(parts: list[Fitted], policy: str, board: str) -> dict[str, Capacitor | None]:
    """The places a policy renews, with the part that fits each best where the board's zones put it."""
    zones = [read_zone(line) for line in ZONES[board]]
    plan = make_plan(
        [tell(part, zones).part for part in parts],
        house_columns(),
        policy=policy,
        year=NOW,
        made=MADE,
        fits=1,
        refused=0,
    )
    return {p.part.ref: p.chosen for p in plan.places if p.decision.replace}


def on_the_shelf() -> list[dict[str, object]]:
    """The museum's shelf: what lies there and what it costs, sample figures all of them."""
    names = [c.name for c in STOCK]
    devices = (*make_others.regulators(), *make_others.fuses(), *make_others.batteries(), *make_others.diodes())
    rows = [{name: getattr(p, name) for name in names} for p in house_parts()]
    empty = {"pack": 1, "supplier": "", "lead_days": 0}
    return rows + [{**empty, "part": d.part, "price": d.price, "stock": d.stock} for d in devices]


def supplied(parts: list[Fitted], board: str) -> list[Fitted]:
    """The parts with what their supply tells their places: the worst volts that a store may hold."""
    if board not in SUPPLIES:
        return parts
    told, _ = places_of(read_model("\n".join(SUPPLIES[board])), {p.ref: p for p in parts})
    return [tell_supply(p, told)[0] for p in parts]


def standing(parts: list[Fitted], chosen: dict[str, Capacitor | None]) -> tuple[Fitted, ...]:
    """The parts as they stand once all that was chosen is in."""
    new = {ref: c for ref, c in chosen.items() if c}
    return tuple(
        p.after_swap(new[p.ref].value, new[p.ref].kind, new[p.ref].mounting, new[p.ref].bipolar) if p.ref in new else p
        for p in parts
    )


def plausible(check: prove.Check) -> str:
    """A reading inside a check's limits, off its middle by a few percent that only depend on its name."""
    if check.seen:
        return "yes"
    part = zlib.crc32(check.key.encode()) % 1000 / 1000
    if check.fact == DISCHARGED:
        return f"{0.2 + 2 * part:.2f}"
    if check.kind == "continuity":
        return f"{0.1 + 0.5 * part:.2f}"
    if check.key.startswith("cold.winding"):
        # what its label lets expect, and the plug's own
        return f"{(check.high - LEADS) / SPREAD * (0.9 + 0.3 * part) + 0.05:.2f}"
    if check.kind == "ripple":
        # behind a linear regulator that has its headroom: little but its own noise
        return f"{2 + 6 * part:.1f}m"
    if check.nominal is not None:
        part = zlib.crc32(check.rail.encode()) % 1000 / 1000
        dip = 0.006 if check.aspect == "lowest" else 0.0
        return f"{check.nominal * (0.99 + 0.025 * part - dip):.3f}"
    if check.high is not None and check.low is None:
        return f"{check.high * (0.3 + 0.4 * part):.2f}"
    if check.low is not None and check.high is not None:
        return f"{check.low + (check.high - check.low) * (0.4 + 0.2 * part):.4g}"
    return f"{max(check.low or 0, 1) * (3 + 4 * part):.0f}"


def row(check: prove.Check) -> list[str]:
    return [check.names[0] if check.names else check.key, plausible(check), ""]


def discharged(facts: list[prove.BoardFacts]) -> list[list[str]]:
    """Every store read empty, as before hands go in."""
    return [row(c) for c in prove.cold_checks(facts) if c.fact == DISCHARGED]


def readings(before: list[prove.BoardFacts], facts: list[prove.BoardFacts]) -> list[list[str]]:
    """Every check of the way up in order: stores empty before the swaps, and stores empty and nothing left inside each time
    before power goes on. before: the boards with their old parts."""
    proof = prove.Proof(boards=tuple(facts))
    inside = next(row(c) for c in proof.steps[0].checks if c.fact == INSIDE)
    rows, live = discharged(before), True
    for step in proof.steps:
        cold = [row(c) for c in step.checks if not c.live and c.fact not in (DISCHARGED, INSIDE)]
        if cold or not live:
            rows += [*discharged(facts), *cold]
            # hands are out once the dummy loads are on
            rows += [] if step.key == "cold" else [inside]
        rows += [row(c) for c in step.checks if c.live]
        live = step.key not in ("cold", "source", "dummy")
    return [*rows, *discharged(facts), inside]


#: Where the corners of the mainboard lie in its photo: upper left, upper right, lower right, lower left.
PHOTO_CORNERS = "150,118 1464,82 1530,1010 96,1046"


def draw_photo(parts: list[Fitted]) -> None:
    """A picture of unit B's mainboard, as if taken by hand from a little to one side; drawn, nobody took it."""
    flat = Image.new("RGB", (1920, 1344), (74, 104, 70))
    pen = ImageDraw.Draw(flat)
    dice = random.Random(80)
    for _ in range(420):
        x, y = dice.randrange(1920), dice.randrange(1344)
        way = dice.choice([(1, 0), (0, 1), (1, 1)])
        far = dice.randrange(30, 240)
        pen.line((x, y, x + way[0] * far, y + way[1] * far), fill=(92, 126, 84), width=3)
    for line in CHIPS:
        chip = read_chip(line)
        box = [
            8 * v
            for v in (
                chip.x - chip.width / 2,
                chip.y - chip.height / 2,
                chip.x + chip.width / 2,
                chip.y + chip.height / 2,
            )
        ]
        pen.rectangle(box, fill=(38, 38, 40), outline=(150, 150, 146), width=4)
    for part in parts:
        r, x, y = 4 * (part.diameter or 6), 8 * part.x, 8 * part.y
        if part.kind != "wet":
            pen.rectangle((x - r, y - r * 0.5, x + r, y + r * 0.5), fill=(178, 92, 52))
            continue
        if part.looks in ("leaking", "crusty"):
            pen.ellipse((x - r - 22, y - r - 14, x + r + 30, y + r + 26), fill=(96, 84, 44))
        pen.ellipse((x - r, y - r, x + r, y + r), fill=(40, 46, 66), outline=(16, 18, 26), width=3)
        pen.ellipse((x - r * 0.72, y - r * 0.72, x + r * 0.72, y + r * 0.72), fill=(168, 172, 176))
    corners = [tuple(map(float, pair.split(","))) for pair in PHOTO_CORNERS.split()]
    back = square_up([(0, 0), (1920, 0), (1920, 1344), (0, 1344)], corners)
    photo = flat.transform(
        (1600, 1120),
        Image.Transform.PERSPECTIVE,
        back.coefficients,
        Image.Resampling.BICUBIC,
        fillcolor=(196, 184, 162),
    )
    (HERE / "photos").mkdir(exist_ok=True)
    photo.save(HERE / "photos" / "B-MB-80.jpg", quality=72, optimize=True)


#: A second job of another machine: the timer of a fog signal, one board with its own linear supply.
FOG = HERE.parent / "fog-signal"
ST4 = """
C1 2200u 25V 16x25 p7.5 bulk rail +5V at 26,24 series KV leaking
C2 100u 25V 6.3x11 p2.5 regulator output rail +5V at 62,22
C3 22u 16V 5x11 p2 decoupling rail +5V at 78,22
C4 22u 16V 5x11 p2 decoupling rail +5V at 90,22
C5 10u 16V 5x11 p2 decoupling rail +5V at 102,22 series MT
C6 10u 16V 5x11 p2 decoupling rail +5V at 112,22 series MT
C7 47u 16V 6.3x11 p2.5 timing at 84,48 series QF
C8 100u 16V 6.3x11 p2.5 decoupling rail +5V at 62,48
C9 220n 63V film 7.2x6.5 p5 filter at 104,48
""".strip().splitlines()


def fog_signal() -> None:
    """Write the second job."""
    FOG.mkdir(exist_ok=True)
    parts = survey(ST4, "C7 crusty esr 8.2\nC8 looks sound esr 2.9 in circuit")
    (FOG / "ST-4.csv").write_text(write_survey(parts), encoding="utf-8")
    places = make_plan(parts, house_columns(), policy="renew", year=NOW, made=1986, fits=1, refused=0).places
    plan = [["ST-4", p.part.ref, "take", "", "", ""] for p in places if p.decision.replace]
    with (FOG / "plan.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file, lineterminator="\n").writerows([[c.name for c in PLAN], *plan])
    board = {
        "name": "ST-4", "title": "Timer board", "supply": "linear", "width": 124, "height": 64, "expected": 9, "fuse": "T 250 mA 250 V",
        "source_volts": 8, "source_va": 10, "rails": ["+5 V 0.5 A min 0.1 A"], "zones": [],
        "others": ["VR1 regulator 7805 1A at 44,44", "F1 fuse T 250mA 250V 5x20 at 16,56"],
        "supply_model": ["bridge 8V 10VA reservoir C1 regulator VR1 5V 0.5A heatsink 12"], "survey": "ST-4.csv",
    }  # fmt: skip
    job = {
        "format": "idlebench-job", "version": 1,
        "job": {
            "name": "Timer of the fog signal", "owner": "Skerry Point lighthouse museum", "machine": "Fog signal timer FT-3", "made": 1986,
            "policy": "renew", "school": "strict", "way": "lamp", "mains_volts": 230, "mains_frequency": 50, "meter_frequency": 120,
            "traits": ["supply"],
        },
        "units": [
            {
                "name": "F", "serial": "FT3-022", "symptoms": "Sounds every two minutes instead of every one.",
                "first_look": ["plug", "shake", "opened", "smell", "parts", "repairs", "fuse", "chassis", "supply"], "boards": [board],
                "plan": "plan.csv", "worth": 90,
            }
        ],
    }  # fmt: skip
    (FOG / "job.json").write_text(json.dumps(job, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    resources = [schema("st-4", "ST-4.csv", SURVEY, "ref")]
    package = {"name": "fog-signal", "title": "Second demo job of Idle Bench, invented", "resources": resources}
    (FOG / "datapackage.json").write_text(json.dumps(package, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


#: A third job: the amber monitor of unit B, two boards and a supply of its own.
AMBER = HERE.parent / "amber-monitor"
VM12 = """
C101 4700u 35V 22x41 p10 bulk rail +12V at 22,28 series KV
C102 220u 25V 8x11.5 p3.5 regulator output rail +12V at 46,22
C103 100u 25V 6.3x11 p2.5 decoupling rail +12V at 60,22
C104 100u 25V 6.3x11 p2.5 decoupling rail +12V at 72,22
C105 22u 25V 5x11 p2 decoupling rail +12V at 84,22
C106 10u 25V 5x11 p2 coupling at 96,22 series MT
C107 1u 50V 5x11 p2 coupling at 106,22
C108 2u2 50V 5x11 p2 timing at 116,22
C109 47n 100V film 7.2x6.5 p5 timing at 128,22
C110 22n 100V film 7.2x6.5 p5 timing at 140,22
C111 100n 63V film 7.2x6.5 p5 filter at 152,22
C112 5n6 630V film 13x11 p10 at 150,78
C113 470u 25V 10x16 p5 decoupling rail +12V at 60,50
C114 10u 50V 5x11 p2 decoupling at 74,50
C115 2u2 250V film 18x13 p15 at 122,80
C116 100u 25V 6.3x11 p2.5 at 88,50
C118 47u 63V 8x11.5 p3.5 at 108,98
C119 1u 160V 6.3x11 p2.5 tube supply at 124,100
C120 4u7 100V 6.3x11 p2.5 decoupling at 138,100
C122 1000u 25V 13x20 p5 at 40,70 series QF
C123 100u 25V 6.3x11 p2.5 decoupling rail +12V at 24,72 series QF
C124 100n 63V film 7.2x6.5 p5 filter at 52,86
C125 330n 100V film 10x8 p7.5 filter at 66,86
C126 22u 25V 5x11 p2 decoupling rail +12V at 80,86
""".strip().splitlines()
VM12N = """
C201 10u 100V 6.3x11 p2.5 at 20,18
C202 100n 100V film 7.2x6.5 p5 decoupling at 34,18
C203 47u 25V 6.3x11 p2.5 decoupling rail +12V at 20,36
C204 470u 25V 10x16 p5 decoupling rail +12V at 38,36
C205 22u 25V 5x11 p2 coupling at 54,30
C206 10n 1000V film 13x9 p10 filter at 54,18
""".strip().splitlines()
#: As the service sheet has it: the part in C112 is not the one.
MONITOR = [
    "monitor 15.625kHz 50Hz tube 12kV nominal 12in",
    "line stage B+ 12V retrace C112 6n8 yoke 1.2mH deflection C115 boost C118 transformer T2 transistor Q3 draws 1.1A",
    "field output IC1 capacitor C122 1000u into 12mH 8ohm 0.9A",
    "heater 12V 0.3A",
    "video rail 60V C201",
]


def amber_monitor() -> None:
    """Write the third job."""
    AMBER.mkdir(exist_ok=True)
    main_board = survey(
        VM12,
        "C101 looks sound esr 0.075 cap 4300u\nC122 bulging esr 1.9 cap 310u\nC123 looks sound esr 1.4\nC112 looks sound cap 5.6n",
    )
    neck = survey(VM12N, "C201 looks sound esr 2.1\nC204 looks sound esr 0.3")
    for name, parts in (("VM-12", main_board), ("VM-12N", neck)):
        (AMBER / f"{name}.csv").write_text(write_survey(parts), encoding="utf-8")
    boards = [
        {
            "name": "VM-12", "title": "Deflection board", "supply": "linear", "width": 168, "height": 116, "expected": 24,
            "fuse": "T 1 A 250 V", "source_volts": 15, "source_va": 40, "rails": ["+12 V 1.8 A min 0.3 A"],
            "zones": ["heat 65 line stage at 98,30 66x56"],
            "chips": [
                "IC1 field 20x8 at 60,66 gnd 4", "IC2 timing 20x8 at 90,38 gnd 8", "J1 video in 12x6 at 14,100", "J2 yoke 12x6 at 154,108",
            ],
            "others": [
                "VR1 regulator 7812 2A at 36,10", "F1 fuse T 1A 250V 5x20 at 10,10", "T2 transformer line transformer at 142,48",
                "Q3 transistor line output at 106,58",
            ],
            "supply_model": ["bridge 15V 40VA reservoir C101 regulator VR1 12V 2A heatsink 4"], "monitor_model": MONITOR,
            "survey": "VM-12.csv",
        },
        {
            "name": "VM-12N", "title": "Neck board", "width": 70, "height": 52, "expected": 6, "chips": ["J3 neck in 10x6 at 8,44"],
            "others": ["Q4 transistor picture amplifier at 44,44"], "survey": "VM-12N.csv",
        },
    ]  # fmt: skip
    job = {
        "format": "idlebench-job", "version": 1,
        "job": {
            "name": "Amber monitor of unit B", "owner": "Skerry Point lighthouse museum", "machine": "Monitor VM-12", "made": MADE,
            "policy": "mend", "school": "strict", "way": "lamp", "mains_volts": 230, "mains_frequency": 50, "meter_frequency": 120,
            "traits": ["supply", "tube"], "meter": "stand-in",
        },
        "units": [
            {
                "name": "M", "serial": "VM12-0388", "symptoms": "The picture shakes, and at the bottom it is pressed together.",
                "found": "A ring round a pin of T2.", "repairs": "C112 is newer than the rest.", "burn": "off",
                "first_look": ["plug", "shake", "opened", "smell", "parts", "repairs", "fuse", "chassis", "supply", "tube", "anode"],
                "boards": boards,
                "worth": 140,
            }
        ],
    }  # fmt: skip
    (AMBER / "job.json").write_text(json.dumps(job, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    resources = [schema(name.lower(), f"{name}.csv", SURVEY, "ref") for name in ("VM-12", "VM-12N")]
    package = {"name": "amber-monitor", "title": "Third demo job of Idle Bench, invented", "resources": resources}
    (AMBER / "datapackage.json").write_text(json.dumps(package, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


def main() -> None:
    fog_signal()
    amber_monitor()
    HERE.mkdir(exist_ok=True)
    surveys = {
        "A MB-80": survey(MB80, SEEN["A MB-80"]),
        "A PS-1": survey(PS1, SEEN["A PS-1"]),
        "B MB-80": survey(MB80, SEEN["B MB-80"]),
        "B PS-2": survey(PS2, SEEN["B PS-2"]),
    }
    draw_photo(surveys["B MB-80"])
    for name, parts in surveys.items():
        (HERE / f"{name.replace(' ', '-')}.csv").write_text(write_survey(parts), encoding="utf-8")
    fed = {
        "title": "Mainboard",
        "width": 240,
        "height": 168,
        "expected": 41,
        "chips": CHIPS,
        "others": OTHERS["MB-80"],
        "zones": ZONES["MB-80"],
    }
    ps1 = {
        "name": "PS-1",
        "title": "Linear supply",
        "supply": "linear",
        "width": 160,
        "height": 90,
        "expected": 8,
        "fuse": "T 500 mA 250 V",
        "source_volts": 9,
        "source_va": 25,
        "rails": RAILS1,
        "others": OTHERS["PS-1"],
        "zones": ZONES["PS-1"],
        "supply_model": SUPPLIES["PS-1"],
    }
    ps2 = {
        "name": "PS-2",
        "title": "Supply board",
        "supply": "switching",
        "width": 176,
        "height": 68,
        "expected": 18,
        "fuse": "T 1.6 A 250 V",
        "rails": RAILS2,
        "others": OTHERS["PS-2"],
        "zones": ZONES["PS-2"],
        "supply_model": SUPPLIES["PS-2"],
        # what the stand-in finds once it is powered: a joint that takes volts under load, inside every limit
        "truth": ["J2 joint 0.06 pressed 0.01"],
    }
    looks = [
        "plug",
        "shake",
        "battery",
        "opened",
        "smell",
        "parts",
        "repairs",
        "fuse",
        "chassis",
        "supply",
        "tube",
        "anode",
        "keyboard",
    ]
    chosen = {b: to_replace(surveys[f"A {b}"], "renew", b) for b in ("MB-80", "PS-1")}
    plan_a = [[b, ref, "take", item.part, "yes", ""] for b, places in chosen.items() for ref, item in places.items()]
    table("A-plan.csv", [c.name for c in PLAN], plan_a)
    now = {b: standing(supplied(surveys[f"A {b}"], b), places) for b, places in chosen.items()}
    swapped = {b: frozenset(places) for b, places in chosen.items()}
    rails, chips = tuple(map(read_rail, RAILS1)), tuple(map(read_chip, CHIPS))
    listed = tuple(read_device(line) for line in OTHERS["PS-1"])
    windings = prove.windings_of(9.0, 25.0, listed, read_model("\n".join(SUPPLIES["PS-1"])))
    facts = [
        prove.BoardFacts(
            name="PS-1",
            supply="linear",
            parts=now["PS-1"],
            swapped=swapped["PS-1"],
            rails=rails,
            chips=(),
            fuse=ps1["fuse"],
            source_volts=9.0,
            source_va=25.0,
            devices=listed,
            windings=windings,
            modelled=True,
        ),
        prove.BoardFacts(name="MB-80", supply="", parts=now["MB-80"], swapped=swapped["MB-80"], rails=(), chips=chips),
    ]
    old = [replace(f, parts=tuple(supplied(surveys[f"A {f.name}"], f.name)), swapped=frozenset()) for f in facts]
    table("A-readings.csv", [c.name for c in READINGS], readings(old, facts))
    ps2_before = prove.BoardFacts(name="PS-2", supply="switching", parts=tuple(supplied(surveys["B PS-2"], "PS-2")))
    table("B-readings.csv", [c.name for c in READINGS], discharged([ps2_before]))
    (HERE / "shelf.csv").write_text(write_table(STOCK, on_the_shelf()), encoding="utf-8")
    mine = to_replace(surveys["B MB-80"], "renew", "MB-80")
    plan_b = [
        ["PS-2", ref, "take", "", "yes" if ref in ("C1", "C9", "C10", "C14") else "", ""]
        for ref in to_replace(surveys["B PS-2"], "renew", "PS-2")
        if ref not in ("C18", "C24", "C40")
    ]
    plan_b += [["MB-80", ref, "take", "", "", ""] for ref in mine if ref not in ("C2", "C22", "C23", "C35", "C39")] + [
        ["MB-80", "C2", "keep", "", "", ""]
    ]
    table("B-plan.csv", [c.name for c in PLAN], plan_b)
    job = {
        "format": "idlebench-job",
        "version": 1,
        "job": {
            "name": "Three tide-display terminals",
            "owner": "Skerry Point lighthouse museum",
            "machine": "Tidewriter 80",
            "made": MADE,
            "policy": "renew",
            "school": "strict",
            "way": "lamp",
            "mains_volts": 230,
            "mains_frequency": 50,
            "meter_frequency": 120,
            "traits": ["supply", "tube", "battery", "keyboard"],
            "meter": "stand-in",
        },
        "units": [
            {
                "name": "A",
                "serial": "TW80-0117",
                "symptoms": "Dark after a winter in the damp lamp room. Hum from the case.",
                "first_look": looks,
                "boards": [{**ps1, "survey": "A-PS-1.csv"}, {"name": "MB-80", **fed, "survey": "A-MB-80.csv"}],
                "plan": "A-plan.csv",
                "readings": "A-readings.csv",
                "dismantling": APART,
                "reassembled": True,
                "handed_over": True,
            },
            {
                "name": "B",
                "serial": "TW80-0142",
                "symptoms": "Picture shakes, sound crackles, goes dark after ten minutes.",
                "found": "Brown stain under C1. Loose screw under the supply.",
                "missing": "One case screw.",
                "repairs": "Fuse holder cap mended with tape. C25 changed once already, by its date.",
                "dates": ["8423 on U5", "8419 on U1", "9112 on C25", "8427 on T1"],
                "photos": [
                    {
                        "file": "photos/B-MB-80.jpg",
                        "board": "MB-80",
                        "words": "Mainboard as found",
                        "square": PHOTO_CORNERS,
                    }
                ],
                "first_look": looks,
                "boards": [{**ps2, "survey": "B-PS-2.csv"}, {"name": "MB-80", **fed, "survey": "B-MB-80.csv"}],
                "plan": "B-plan.csv",
                "readings": "B-readings.csv",
                "worth": 260,
                "damage": 1,
                "dismantling": APART,
            },
            {
                "name": "C",
                "serial": "",
                "symptoms": "Found in the oil store. Its mainboard was lifted out for a photo, no more.",
                "found": "Rust on the case, one keycap loose in the bag.",
                "worth": 120,
                "photos": [
                    {
                        "file": "photos/C-MB-80.jpg",
                        "board": "MB-80",
                        "words": "Mainboard, for its parts to be found in",
                        "square": "0,0 2016,0 2016,1411 0,1411",
                    }
                ],
                "first_look": [],
                "boards": [{"name": "MB-80", "title": "Mainboard", "width": 240, "height": 168, "expected": 41}],
            },
        ],
    }
    (HERE / "job.json").write_text(json.dumps(job, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    (HERE / "MB-80-nets.csv").write_text(write_nets(data_lines()), encoding="utf-8")
    resources = [schema(n.lower().replace(" ", "-"), f"{n.replace(' ', '-')}.csv", SURVEY, "ref") for n in surveys]
    resources.append(schema("mb-80-nets", "MB-80-nets.csv", NETS, "net", "ref", "pin"))
    package = {"name": "skerry-point", "title": "Demo job of Idle Bench, invented", "resources": resources}
    (HERE / "datapackage.json").write_text(json.dumps(package, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
