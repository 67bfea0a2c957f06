"""Machines of many kinds: every part on them is listed, found, measured, judged or named, and swapped, by lines as people type them."""

import re

import pytest
from django.urls import reverse

from idlebench.core.board.listing import is_device, named
from idlebench.core.judge.device_limits import sound_readings
from idlebench.web.choose import devices as choosing_devices
from idlebench.web.choose import services as choosing
from idlebench.web.survey import device_measuring, measuring
from idlebench.web.survey.services import paste
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits
from idlebench.web.unit.state import board_state
from tests import typed
from tests.web.helpers import discharge

#: What each machine has, a line a part; what its restorer reads of some of them, and what that says.
MACHINES = {
    "pen handheld": (
        ["C1 47u 6.3V tantalum 3.5x2.8 decoupling at 10,10", "C2 100n 25V ceramic decoupling at 14,10", "DS1 display with pen layer", "X1 crystal 32.768kHz at 20,10", "S1 key carbon at 5,30",
         "BT1 battery 3V", "L1 choke 22u at 18,20", "D1 schottky 1A 40V at 22,20", "XP1 connector 4 contacts", "MOD1 backlight module note whines"],
        {"C1": ("OL", "replace"), "X1": ("OL 32.768kHz", "sound"), "S1": ("240 OL", "doubtful"), "D1": ("0.22 OL", "sound"), "L1": ("0.9", "sound"), "BT1": ("1.2", "replace"), "XP1": ("14", "replace")},
    ),
    "clock-cell desktop": (
        ["C10 10u 16V 5x11 decoupling", "BT1 battery 3.6V charged leaking", "D5 diode 1N4148", "R7 resistor 470R 0.25W 5%", "Q2 npn 50V 0.1A", "X1 crystal 32.768kHz", "R8 10k 0.25W"],
        {"D5": ("OL OL", "replace"), "R7": ("OL", "replace"), "R8": ("10.1k", "sound"), "Q2": ("be 0.66 bc 0.65 ce OL", "sound")},
    ),
    "home computer on an adapter": (
        ["C1 2200u/16V 13x20 main filter", "C2 100n 50V ceramic", "VR1 regulator 7805 1A at 20,10", "HS1 heatsink", "L2 bead", "D1 bridge 1A 100V", "S1 switch two poles", "SK1 socket 40 legs", "J1 power in"],
        {"L2": ("0.1", "sound"), "D1": ("0.55 OL", "sound"), "S1": ("6 OL", "replace"), "SK1": ("0.3", "sound"), "C1": ("41m 2100u", "sound")},
    ),
    "radio amplifier": (
        ["C1 470u 35V 10x20 speaker coupling", "C2 8+8 450", "Q1 npn 80V 4A 36W", "Q2 pnp 80V 4A 36W", "R1 0.47R 5W wirewound", "VR5 trimmer 10k", "LS1 8ohm", "LA1 lamp 6.3V 0.3A", "T1 transformer tap 240V secondary 12-0-12V 2A", "C9 104K 400V"],
        {"Q1": ("be 0.0 bc 0.0 lifted", "replace"), "Q2": ("0.64 0.63 OL", "sound"), "R1": ("OL", "replace"), "VR5": ("14.8k", "replace"), "LS1": ("7.1", "sound"), "LA1": ("OL", "replace"), "T1": ("2.1", "sound")},
    ),
    "fleet of one kind": (
        ["C1 100u 10V 6.3x11 decoupling", "C2 100u 10V 6.3x11 decoupling", "C3 100u 10V 6.3x11 decoupling", "RN1 network 8x10k", "K2 relay 5V 56ohm", "F1 fuse T 1A 250V 5x20"],
        {"C1": ("9 31u", "replace"), "C2": ("0.4 98u", "sound"), "RN1": ("9.9k", "sound"), "K2": ("58 closed 0.1 open OL", "sound"), "F1": ("OL", "replace")},
    ),
    "recorder with few bulging parts": (
        ["C1 1000u 16V 10x20 bulging output filter", "C2 1000u 16V 10x20 output filter", "C3 47u 25V 5x11 sound", "M1 motor 12V 30ohm", "SW3 switch", "OK1 optocoupler ctr 80-160%", "ZD1 zener 5.1V 0.5W"],
        {"M1": ("31", "sound"), "SW3": ("0.3 OL", "sound"), "OK1": ("1.12 OL ctr 12%", "replace"), "ZD1": ("0.7 OL 6.9V", "replace")},
    ),
    "corroded supply": (
        ["C1 220u 25V 8x11 leaking", "R1 resistor 100R 1W 5% burnt", "R2 resistor 22k 0.25W corroded", "D1 diode 3A 100V", "F1 fuse T 2A 250V 5x20", "FH1 holder", "J3 harness to the boards"],
        {"R2": ("OL", "replace"), "D1": ("0.0 0.0 lifted", "replace"), "FH1": ("38", "replace")},
    ),
    "blown line filter": (
        ["C1 100n 275V~ X2 18x11 p15 cracked", "C2 2n2 Y2 250V~ p7.5", "MOV1 varistor 275V~", "L1 choke 4.7mH two windings", "R1 discharge 1M", "F1 fuse T 1.6A 250V 5x20 blown", "TH1 thermistor 10R"],
        {"MOV1": ("40k lifted", "replace"), "L1": ("0.6", "sound"), "R1": ("1.02M", "sound"), "TH1": ("9.4", "sound")},
    ),
    "striped picture": (
        ["C41 4n7 1600V film 18x11 retrace", "C42 22u 250V 10x20 video", "Q12 npn 1500V 5A 50W built-in diode", "R33 resistor 10k 2W", "D9 fast 2A 600V", "T3 transformer line output", "VR3 trimmer 2k2 height"],
        {"C42": ("11 6u", "replace"), "R33": ("18k", "replace"), "D9": ("0.52 OL", "sound"), "T3": ("1.4", "sound"), "VR3": ("2.25k", "sound"), "Q12": ("bc 0.5 ce OL", "sound")},
    ),
    "big reservoirs": (
        ["C1 10000u 40V screw 35x80 reservoir", "C2 10000u 40V screw 35x80 reservoir", "T1 transformer 200VA tap 220V secondary 24-0-24V 4A", "D1 bridge 10A 200V", "R1 bleeder 2k2 for C1", "F2 fuse T 4A 250V 5x20"],
        {"T1": ("0.4", "sound"), "D1": ("0.58 OL", "sound"), "R1": ("OL", "replace"), "F2": ("0.05", "sound")},
    ),
    "torn regulator": (
        ["VR1 regulator 7812 1A cracked at 20,20", "C3 100n 50V ceramic at 24,20", "C4 10u 25V 5x11 regulator output at 28,20", "HS1 heatsink", "Q1 n-fet 60V 30A"],
        {"Q1": ("be OL bc OL", "sound"), "C4": ("0.9 9.6u", "sound")},
    ),
    "console without its adapter": (
        ["AD1 adapter 9V DC 1.3A centre - 5.5x2.1 missing", "C1 1000u/16V 10x16 reservoir", "FB1 bead", "SK2 socket cartridge", "S1 button reset", "CR1 schottky 3A 40V"],
        {"FB1": ("OL", "replace"), "SK2": ("3", "doubtful"), "S1": ("0.4 OL", "sound"), "CR1": ("0.24 OL", "sound")},
    ),
    "micro with a kit": (
        ["C1 22u 25V axial 6x13 coupling", "C2 1u/50V 5x11 reset", "C3 104 50V ceramic", "R1 resistor 1k 1/4W 5%", "D1 1N4001", "Q1 npn 50V 0.1A hfe 100", "U1 processor 40 legs at 40,20"],
        {"C1": ("2.4 21u", "sound"), "R1": ("1.01k", "sound"), "D1": ("580 OL", "sound")},
    ),
    "many cards with a keyboard board": (
        ["C1 47u/25V 6.3x11 at 4,4", "C2 100n 63V film", "S1 key at 10,10", "S2 key at 20,10", "S3 key at 30,10", "LED1 led red", "RL1 relay 12V 120ohm", "NE1 neon", "SPK1 loudspeaker 32ohm", "FAN1 fan 12V", "GD1 arrester"],
        {"S1": ("60 OL", "sound"), "S2": ("OL", "replace"), "LED1": ("1.8 OL", "sound"), "RL1": ("OL", "replace"), "NE1": ("OL", "sound"), "SPK1": ("28", "sound"), "GD1": ("OL", "sound")},
    ),
}  # fmt: skip


@pytest.fixture
def board(unit):
    return typed.add_board(unit, {"name": "X-1", "width": "120", "height": "90", "expected": "0"})


def lost(words, line):
    """The words of a typed line that stand nowhere in what is kept of it: numbers by what they mean, the rest as they are."""
    kept = re.sub(r"[^a-z0-9.]", " ", words.lower()).split()
    plain = [w for w in re.sub(r"[^A-Za-z0-9.]", " ", line).lower().split() if w.isalpha() and len(w) > 3]
    # open, blown and the like are kept as readings
    return [
        word
        for word in plain
        if word not in ("blown", "open", "shorted")
        and not any(word in one or one in word for one in kept if len(one) > 2)
    ]


@pytest.mark.parametrize("name", MACHINES)
def test_every_part_of_a_machine_goes_the_whole_way(client, board, name):
    lines, readings = MACHINES[name]
    assert paste(board, "\n".join(lines), good_rows=False).left == []
    state, here = board_state(board.pk)
    refs = {line.split()[0] for line in lines if " 8+8 " not in line} | (
        {"C2A", "C2B"} if any(" 8+8 " in line for line in lines) else set()
    )
    listed = {p.ref for p in here.parts} | {d.ref for d in here.others} | {c.ref for c in here.chips}
    assert refs <= listed and not here.unread, refs - listed
    # nothing that was typed is lost: each line of another part says its words again
    for line in lines:
        full = named(line)
        if is_device(full):
            kept = next(
                one
                for one in board.__class__.objects.get(pk=board.pk).others.splitlines()
                if one.split()[0] == line.split()[0]
            )
            again = here.find_device(line.split()[0])
            assert not lost(
                f"{kept} {again.device.title if again else ''} {again.device.marked if again else ''}", full
            ), line
    # found by its reference
    page = client.get(reverse("find"), {"q": sorted(refs)[0]}).content.decode()
    assert f"part={sorted(refs)[0]}" in page
    discharge(board.unit)
    for ref, (text, verdict) in readings.items():
        state, here = board_state(board.pk)
        place = next(one for one in measuring.run_of(here).places if one.ref == ref)
        if place.part:
            measuring.take(state, here, place.part, text, "0.3", in_circuit=False)
        else:
            device_measuring.take_device(state, here, place.device, text, lifted="lifted" in text)
        found = board_state(board.pk)[1]
        part = found.find(ref) or found.find_device(ref)
        assert part.verdict.name == verdict, (ref, text, part.verdict)
    # what a meter can tell of is walked, the rest is named
    here = board_state(board.pk)[1]
    walked = {one.ref for one in measuring.run_of(here).places}
    for device in here.devices:
        assert (
            device.device.what == "chip"
            or device.ref in walked
            or not sound_readings(device.device)
            or device.device.looks == "missing"
        )
    swap_all(board)


def swap_all(board):
    """Every capacitor and every other part changed as a step: chosen by its limits where they are known, else by what is written on it."""
    state, here = board_state(board.pk)
    for part in here.parts:
        best = fits.ranking_for(state, part).best
        if best is not None:
            choosing.take(board.pk, part.ref, best.part.part)
            discharge(board.unit)
            swapping.swapped(board.pk, part.ref)
    for view in choosing_devices.others(*board_state(board.pk)):
        if view.best is not None:
            choosing_devices.take_other(board.pk, view.other.ref, view.best.part)
    state, here = board_state(board.pk)
    done = []
    for device in here.devices:
        what = device.device.what
        if what in ("regulator", "fuse", "battery") and device.choice is None:
            continue
        if what == "adapter":
            continue
        text = {"varistor": "14 mm 275V~"}.get(what, f"new {device.device.title}")
        swapping.device_swapped(board.pk, device.ref, typed="" if device.choice else text, tab="OL")
        done.append(device.ref)
    after = board_state(board.pk)[1]
    assert all(after.find_device(ref).swap for ref in done)
