"""Makes the figures the simulated bench is held against with a general circuit simulator, where one is installed (``ngspice``).

Each case is a supply line, what befell its parts, and the mains; its netlist stands beside its figures in the file that the tests
read. The regulator is written as behavioural sources: what comes out follows what goes in less the dropout.
"""

from __future__ import annotations

import json
import math
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

OUT = Path(__file__).resolve().parents[1] / "tests" / "core" / "reference_rectifiers.json"
#: Cases: name, topology, winding V rms, Ω, F, Ω of ESR, rail V, A, dropout V, mains as a share, Hz, which diode is open.
CASES = [
    ("bridge, good", "bridge", 15, 1.1, 3300e-6, 0.05, 12, 0.5, 2.2, 1.0, 60, 0),
    ("bridge, dried", "bridge", 15, 1.1, 330e-6, 1.4, 12, 0.5, 2.2, 1.0, 60, 0),
    ("bridge, half dried", "bridge", 15, 1.1, 1500e-6, 0.35, 12, 0.5, 2.2, 1.0, 60, 0),
    ("bridge, good, -10 %", "bridge", 15, 1.1, 3300e-6, 0.05, 12, 0.5, 2.2, 0.9, 60, 0),
    ("bridge, dried, -10 %", "bridge", 15, 1.1, 330e-6, 1.4, 12, 0.5, 2.2, 0.9, 60, 0),
    ("bridge, good, -20 %", "bridge", 15, 1.1, 3300e-6, 0.05, 12, 0.5, 2.2, 0.8, 50, 0),
    ("bridge, D1 open", "bridge", 15, 1.1, 3300e-6, 0.05, 12, 0.5, 2.2, 1.0, 60, 1),
    ("bridge, D1 open, dried", "bridge", 15, 1.1, 330e-6, 1.4, 12, 0.5, 2.2, 1.0, 50, 1),
    ("bridge, D2 open, half dried", "bridge", 15, 1.1, 1500e-6, 0.35, 12, 0.5, 2.2, 1.0, 50, 2),
    ("bridge, 5 V 1 A", "bridge", 9, 0.5, 4700e-6, 0.06, 5, 1.0, 2.0, 1.0, 50, 0),
    ("bridge, 5 V 1 A, dried", "bridge", 9, 0.5, 470e-6, 0.8, 5, 1.0, 2.0, 1.0, 50, 0),
    ("bridge, 5 V 1 A, -10 %", "bridge", 9, 0.5, 4700e-6, 0.06, 5, 1.0, 2.0, 0.9, 50, 0),
    ("centre, good", "centre", 15, 2.5, 1000e-6, 0.11, 12, 0.4, 2.0, 1.0, 50, 0),
    ("centre, dried", "centre", 15, 2.5, 150e-6, 2.0, 12, 0.4, 2.0, 1.0, 50, 0),
    ("centre, half dried", "centre", 15, 2.5, 450e-6, 0.4, 12, 0.4, 2.0, 1.0, 50, 0),
    ("centre, D1 open", "centre", 15, 2.5, 1000e-6, 0.11, 12, 0.4, 2.0, 1.0, 50, 1),
    ("centre, -10 %", "centre", 15, 2.5, 1000e-6, 0.11, 12, 0.4, 2.0, 0.9, 50, 0),
    ("half, good", "half", 12, 1.5, 2200e-6, 0.08, 9, 0.25, 2.0, 1.0, 50, 0),
    ("half, dried", "half", 12, 1.5, 220e-6, 1.5, 9, 0.25, 2.0, 1.0, 50, 0),
    ("half, -10 %", "half", 12, 1.5, 2200e-6, 0.08, 9, 0.25, 2.0, 0.9, 50, 0),
    ("half, half dried, 60 Hz", "half", 12, 1.5, 1000e-6, 0.4, 9, 0.25, 2.0, 1.0, 60, 0),
    ("bridge, store shorted", "bridge", 15, 1.1, 3300e-6, 0.05, 12, 0.5, 2.2, 1.0, 60, -1),
]  # fmt: skip
CYCLES, COUNTED = 45, 5
#: Switching on at the crest, empty store, nothing drawn: name, V rms, Ω, F, Ω of ESR, Hz.
SWITCH_ON = [
    ("mains, 220 µF behind 10.6 Ω", 230.0, 10.6, 220e-6, 0.3, 50),
    ("mains, 100 µF behind 2 Ω", 230.0, 2.0, 100e-6, 0.2, 50),
    ("115 V, 470 µF behind 5 Ω", 115.0, 5.0, 470e-6, 0.1, 60),
    ("15 V winding, 3300 µF behind 1.1 Ω", 15.0, 1.1, 3300e-6, 0.05, 50),
]
AT_SWITCH_ON = OUT.with_name("reference_switch_on.json")
#: How long is looked at, s.
LOOK = 0.06


def netlist(topology, volts, ohms, store, esr, out, amps, dropout, share, hertz, open_) -> str:
    """The circuit of a case. Diodes are Shockley's with 30 mΩ in series, at 27 °C; 0.8 of the rail's volts is where its load fades."""
    peak = volts * share * math.sqrt(2)
    lines = ["* rectifier, store and regulator", ".model dio D(is=5n n=1.75 rs=0.030)", ".temp 27"]
    if topology == "bridge":
        lines += [f"V1 w1 w2 SIN(0 {peak:.6f} {hertz})", f"R1 w1 a {ohms}"]
        ends = {1: "a p", 2: "w2 p", 3: "0 a", 4: "0 w2"}
    elif topology == "centre":
        lines += [
            f"V1 w1 0 SIN(0 {peak:.6f} {hertz})",
            f"V2 0 w2 SIN(0 {peak:.6f} {hertz})",
            f"R1 w1 a {ohms}",
            f"R2 w2 b {ohms}",
        ]
        ends = {1: "a p", 2: "b p"}
    else:
        lines += [f"V1 w1 0 SIN(0 {peak:.6f} {hertz})", f"R1 w1 a {ohms}"]
        ends = {1: "a p"}
    lines += [f"D{n} {nodes} dio" for n, nodes in ends.items() if n != open_]
    lines += ["Rw w2 0 1e7"] if topology == "bridge" else []
    lines += ["Rs p 0 0.001"] if open_ == -1 else [f"C1 c 0 {store} IC=0", f"Re p c {esr}"]
    lines += [
        f"Br r 0 V=min({out}, max(V(p)-{dropout}, 0))",
        f"Bl p 0 I={amps}*min(max(V(r),0)/{0.8 * out:.6f}, 1)",
        f".tran 20u {CYCLES / hertz:.6f} 0 20u uic",
        ".control", "run", f"let from={(CYCLES - COUNTED) / hertz:.6f}", f"let to={CYCLES / hertz - 1e-5:.6f}",
    ]  # fmt: skip
    for name, node in (("store", "p"), ("rail", "r")):
        for what in ("avg", "max", "min"):
            start, end = (CYCLES - COUNTED) / hertz, CYCLES / hertz - 1e-5
            lines.append(f"meas tran {name}_{what} {what} v({node}) from={start:.6f} to={end:.6f}")
    return "\n".join([*lines, ".endc", ".end", ""])


def switching_on(volts, ohms, store, esr, hertz) -> str:
    """The circuit of a case of switching on: the source is at its crest at the first moment."""
    return "\n".join([
        "* switching on", ".model dio D(is=5n n=1.75 rs=0.030)", ".temp 27",
        f"V1 w1 w2 SIN(0 {volts * math.sqrt(2):.6f} {hertz} 0 0 90)", f"R1 w1 a {ohms}", "D1 a p dio", "D2 w2 p dio", "D3 0 a dio",
        "D4 0 w2 dio", "Rw w2 0 1e7", f"C1 c 0 {store} IC=0", f"Re p c {esr}", "B2 0 q I=I(V1)*I(V1)", "C2 q 0 1 IC=0",
        "Rq q 0 1e12", f".tran 2u {LOOK} 0 2u uic", ".control", "run", f"meas tran low min i(v1) from=0 to={LOOK}",
        f"meas tran high max i(v1) from=0 to={LOOK}", f"meas tran i2t find v(q) at={LOOK - 1e-5:.6f}", ".endc", ".end", "",
    ])  # fmt: skip


def measured(text: str, wanted: str = "(?:store|rail)_(?:avg|max|min)", count: int = 6) -> dict[str, float]:
    """What the simulator measured of a netlist."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "case.cir"
        file.write_text(text)
        told = subprocess.run(
            ["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=300, check=False
        ).stdout
    found = dict(re.findall(rf"^({wanted})\s*=\s*(\S+)", told, re.M))
    if len(found) != count:
        sys.exit(f"idlebench: the simulator gave {sorted(found)}:\n{told[-800:]}")
    return {name: float(value) for name, value in found.items()}


def main() -> None:
    """Write the figures anew."""
    if not shutil.which("ngspice"):
        sys.exit("idlebench: ngspice is not installed (Debian: apt install ngspice); the figures stay as they are")
    cases = []
    for name, *numbers in CASES:
        text = netlist(*numbers)
        found = measured(text)
        keys = ("topology", "volts", "ohms", "store", "esr", "out", "amps", "dropout", "share", "hertz", "open")
        cases.append(
            {"name": name, **dict(zip(keys, numbers, strict=True)), "figures": found, "netlist": text.splitlines()}
        )
        print(f"{name:<28} rail {found['rail_avg']:8.3f} V, ripple {found['rail_max'] - found['rail_min']:6.3f} V")
    OUT.write_text(json.dumps(cases, indent=1) + "\n")
    rushes = []
    for name, *numbers in SWITCH_ON:
        text = switching_on(*numbers)
        found = measured(text, "low|high|i2t", 3)
        figures = {"peak": max(abs(found["low"]), abs(found["high"])), "i2t": found["i2t"]}
        keys = ("volts", "ohms", "store", "esr", "hertz")
        rushes.append(
            {"name": name, **dict(zip(keys, numbers, strict=True)), "figures": figures, "netlist": text.splitlines()}
        )
        print(f"{name:<36} peak {figures['peak']:6.2f} A, {figures['i2t']:7.4f} A²s")
    AT_SWITCH_ON.write_text(json.dumps(rushes, indent=1) + "\n")


if __name__ == "__main__":
    main()
