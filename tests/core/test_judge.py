"""Old parts with the verdict they should get and the reason that leads it."""

import pytest

from idlebench.core.board.parts import Fitted
from idlebench.core.choose.plan import bad_series, count_series, judge_all, without
from idlebench.core.judge.evidence import SeriesCount
from idlebench.core.judge.policy import POLICIES
from idlebench.core.judge.verdict import decide, judge

C = Fitted(ref="C22", value=100e-6, volts=10)
FILM = Fitted(ref="C35", value=1e-6, volts=63, kind="film")

TABLE = [
    # what was seen of a 100 µF 10 V part, made, verdict, leading rule
    (C.with_(looks="burst"), None, "replace", "looks"),
    (C.with_(looks="leaking"), None, "replace", "looks"),
    (C.with_(looks="bulging"), None, "replace", "looks"),
    (C.with_(looks="crusty"), None, "replace", "looks"),
    (C.with_(looks="missing"), None, "replace", "looks"),
    (C.with_(looks="sound"), None, "not seen", "looks"),
    (C.with_(looks="sound"), 2020, "sound", "looks"),
    (C, None, "not seen", None),
    (C.with_(esr=6.8), None, "replace", "esr"),
    (C.with_(esr=6.8, in_circuit=True), None, "replace", "esr"),
    (C.with_(esr=3.0), None, "sound", "esr"),
    (C.with_(esr=0.5), None, "sound", "esr"),
    (C.with_(esr=0.5, in_circuit=True), None, "not seen", "esr"),
    (C.with_(esr=2.0, esr_frequency=100e3), None, "replace", "esr"),
    (C.with_(capacitance=79e-6), None, "replace", "capacitance"),
    (C.with_(capacitance=81e-6), None, "sound", "capacitance"),
    (C.with_(capacitance=140e-6), None, "sound", "capacitance"),
    (C.with_(capacitance=155e-6), None, "doubtful", "capacitance"),
    (C.with_(capacitance=155e-6, leakage=50e-6), None, "replace", "capacitance"),
    (C.with_(capacitance=10e-6), None, "replace", "capacitance"),
    (C.with_(capacitance=1000e-6), None, "doubtful", "misread"),
    (C.with_(leakage=9e-6), None, "sound", "leakage"),
    (C.with_(leakage=11e-6), None, "replace", "leakage"),
    (C.with_(looks="sound"), 1984, "not seen", "age"),
    (C.with_(looks="sound", esr=0.5), 1984, "sound", "age"),
    (C.with_(looks="sound", mounting="chip"), 1991, "doubtful", "era"),
    (C.with_(looks="sound"), 2003, "doubtful", "era"),
    (C.with_(looks="sound", ambient=70.0), 1984, "not seen", "age"),
    (C.with_(esr=3.0, ambient=70.0), 1984, "doubtful", "age"),
    (FILM.with_(leakage=0.2e-6), 1984, "sound", "leakage"),
    (FILM.with_(leakage=9e-6, capacitance=1.05e-6), 1984, "replace", "dressed"),
    (FILM.with_(leakage=9e-6), 1984, "replace", "dressed"),
    (Fitted(ref="C1", value=0.1e-6, volts=400, kind="paper", leakage=20e-6), 1955, "replace", "leakage"),
    (Fitted(ref="C34", value=220e-9, volts=63, kind="film", capacitance=22e-9), 1984, "replace", "capacitance"),
    # other sizes and ratings, limits worked from the tan δ table: new × 1.5 for the strict school
    (Fitted(ref="C1", value=22e-6, volts=16, esr=14.4), None, "sound", "esr"),
    (Fitted(ref="C1", value=22e-6, volts=16, esr=14.6), None, "replace", "esr"),
    (Fitted(ref="C1", value=470e-6, volts=10, esr=0.80), None, "sound", "esr"),
    (Fitted(ref="C1", value=470e-6, volts=10, esr=0.82), None, "replace", "esr"),
    (Fitted(ref="C1", value=4700e-6, volts=25, esr=0.092), None, "sound", "esr"),
    (Fitted(ref="C1", value=4700e-6, volts=25, esr=0.095), None, "replace", "esr"),
    (Fitted(ref="C1", value=1e-6, volts=50, esr=197.0), None, "sound", "esr"),
    (Fitted(ref="C1", value=1e-6, volts=50, esr=201.0), None, "replace", "esr"),
    (Fitted(ref="C1", value=220e-6, volts=400, esr=2.1), None, "sound", "esr"),
    (Fitted(ref="C1", value=220e-6, volts=400, esr=2.3), None, "replace", "esr"),
    (Fitted(ref="C1", value=47e-6, volts=200, esr=8.4), None, "sound", "esr"),
    (Fitted(ref="C1", value=47e-6, volts=200, esr=8.6), None, "replace", "esr"),
    (Fitted(ref="C1", value=10e-6, volts=6.3, esr=40.0, in_circuit=True), 1984, "doubtful", "age"),
    (Fitted(ref="C1", value=4700e-6, volts=16, leakage=750e-6), None, "sound", "leakage"),
    (Fitted(ref="C1", value=4700e-6, volts=16, leakage=754e-6), None, "replace", "leakage"),
    (Fitted(ref="C1", value=1e-6, volts=10, leakage=2.9e-6), None, "sound", "leakage"),
    (Fitted(ref="C1", value=1e-6, volts=10, leakage=3.1e-6), None, "replace", "leakage"),
    (Fitted(ref="C1", value=2200e-6, volts=25, capacitance=1750e-6), None, "replace", "capacitance"),
    (Fitted(ref="C1", value=2200e-6, volts=25, capacitance=1770e-6), None, "sound", "capacitance"),
    (Fitted(ref="C1", value=2200e-6, volts=25, capacitance=3400e-6, looks="sound"), None, "doubtful", "capacitance"),
    (
        Fitted(ref="C1", value=2200e-6, volts=25, looks="bulging", esr=0.02, capacitance=2200e-6),
        None,
        "replace",
        "looks",
    ),
    (
        Fitted(ref="C1", value=100e-6, volts=16, capacitance=70e-6, esr=0.5, leakage=1e-6),
        None,
        "replace",
        "capacitance",
    ),
    (
        Fitted(ref="C1", value=2200e-6, volts=25, looks="leaking", esr=0.02, capacitance=2200e-6),
        None,
        "replace",
        "looks",
    ),
    (Fitted(ref="C1", value=47e-6, volts=25, looks="crusty"), 1984, "replace", "looks"),
    (Fitted(ref="C1", value=47e-6, volts=25, mounting="chip", looks="sound"), 1987, "not seen", "age"),
    (Fitted(ref="C1", value=47e-6, volts=25, mounting="chip", looks="sound"), 1995, "not seen", "age"),
    (Fitted(ref="C1", value=1000e-6, volts=10, mounting="radial", esr=0.5), 2001, "replace", "esr"),
    (Fitted(ref="C1", value=10e-6, volts=35, kind="tantalum", looks="burst"), None, "replace", "looks"),
    (Fitted(ref="C1", value=10e-6, volts=35, kind="tantalum", leakage=5e-6), None, "replace", "leakage"),
    (Fitted(ref="C1", value=10e-6, volts=35, kind="tantalum", capacitance=10e-6), 1984, "sound", "capacitance"),
    (Fitted(ref="C1", value=100e-9, volts=63, kind="ceramic", capacitance=60e-9), None, "replace", "capacitance"),
    (Fitted(ref="C1", value=100e-9, volts=63, kind="film", capacitance=99e-9, looks="sound"), 1984, "sound", "looks"),
    (Fitted(ref="C1", value=100e-9, volts=63, kind="film", looks="crusty"), None, "replace", "looks"),
    (Fitted(ref="C1", value=100e-9, volts=250, kind="film", safety="X2", looks="burst"), None, "replace", "looks"),
]


@pytest.mark.parametrize(("part", "made", "verdict", "rule"), TABLE)
def test_verdict_and_its_leading_reason(part, made, verdict, rule):
    got = judge(part, year=2026, made=made)
    assert got.name == verdict
    assert (got.evidence[0].rule if got.evidence else None) == rule
    assert got.working().lines[-1].value == got.points


def test_schools_differ():
    part = C.with_(esr=6.8)
    assert judge(part, year=2026, esr_criterion="strict").name == "replace"
    assert judge(part, year=2026, esr_criterion="lenient").name == "sound"
    assert judge(C.with_(capacitance=75e-6), year=2026, esr_criterion="lenient").name == "sound"


def test_good_in_circuit_clears_nothing():
    inside = judge(C.with_(esr=0.5, in_circuit=True), year=2026)
    outside = judge(C.with_(esr=0.5), year=2026)
    assert inside.points == 0 and "clears nothing" in inside.leading
    assert outside.points < 0


def test_a_reformed_part_may_leak_three_times_as_much():
    part = C.with_(leakage=25e-6)
    assert judge(part, year=2026).name == "replace"
    assert judge(part, year=2026, reformed=True).name == "sound"


def test_same_series_counts_with_its_numbers():
    part = C.with_(looks="sound", series="QF")
    got = judge(part, year=2026, series={"QF": SeriesCount(2, 6)})
    assert got.name == "doubtful" and "2 of 6" in got.leading


def test_series_among_themselves():
    parts = [Fitted(ref="C1", value=1e-4, volts=10, series="QF", looks="leaking"), Fitted(ref="C2", value=1e-4, volts=10, series="QF", looks="sound"),
             Fitted(ref="C3", value=1e-4, volts=10, series="OK", looks="sound")]  # fmt: skip
    verdicts = judge_all(parts, year=2026)
    assert [verdicts[r].name for r in ("C1", "C2", "C3")] == ["replace", "doubtful", "not seen"]
    assert "series" not in {e.rule for e in verdicts["C1"].evidence}, "a part is no evidence against itself"


def test_counting_series():
    counts = count_series([(C.with_(series="A"), True), (C.with_(series="A"), False), (C, True)])
    assert counts == {"A": SeriesCount(1, 2)}
    assert without(counts, C.with_(series="A"), True)["A"] == SeriesCount(0, 1)


@pytest.mark.parametrize(
    ("policy", "bad", "doubtful", "sound", "film", "mate"),
    [("renew", 1, 1, 1, 0, 1), ("mend", 1, 0, 0, 0, 0), ("staged", 1, 0, 0, 0, 0), ("cohort", 1, 0, 0, 0, 1)],
)
def test_policies(policy, bad, doubtful, sound, film, mate):
    leaking = C.with_(looks="leaking", series="QF")
    parts = [
        leaking,
        C.with_(esr=3.0, ambient=70.0),
        C.with_(looks="sound"),
        FILM.with_(looks="sound"),
        C.with_(looks="sound", series="QF"),
    ]
    verdicts = [judge(p, year=2026, made=1984) for p in parts]
    series = bad_series(zip(parts, verdicts, strict=True))
    got = [decide(p, v, policy, series).replace for p, v in zip(parts, verdicts, strict=True)]
    assert got == [bool(x) for x in (bad, doubtful, sound, film, mate)]
    assert all(decide(p, v, policy, series).why for p, v in zip(parts, verdicts, strict=True))
    assert set(POLICIES) == {"renew", "mend", "staged", "cohort"}


def test_the_table_is_long_enough_to_trust():
    assert len(TABLE) >= 60


@pytest.mark.parametrize(("esr", "verdict"), [(0.036, "not seen"), (9.0, "replace")])
def test_in_circuit_a_good_reading_clears_nothing_and_a_bad_one_condemns(esr, verdict):
    part = Fitted(ref="C4", value=1e-4, volts=16.0, esr=esr, in_circuit=True)
    assert judge(part, year=2026).name == verdict
    assert judge(part.with_(in_circuit=False), year=2026).name in ("sound", "replace")


@pytest.mark.parametrize(
    ("part", "name", "rule"),
    [
        # looks alone of a 40-year-old electrolytic are no measurement; its ESR, or its capacitance out of circuit, is
        (C.with_(looks="sound"), "not seen", "age"), (C.with_(looks="sound", esr=0.5), "sound", "age"), (C.with_(capacitance=100e-6), "sound", "age"),
        (C.with_(looks="sound", esr=0.5, in_circuit=True), "not seen", "age"), (C.with_(looks="sound", capacitance=100e-6, in_circuit=True), "not seen", "age"),
        (FILM.with_(looks="sound"), "sound", "looks"),
        # 160 µF on 100 µF is leakage, whatever the ESR; in circuit it is what stands beside it
        (C.with_(capacitance=160e-6, esr=0.3), "doubtful", "capacitance"), (C.with_(capacitance=160e-6, in_circuit=True, looks="sound"), "not seen", "age"),
        (C.with_(capacitance=60e-6, in_circuit=True), "replace", "capacitance"),
        # a start-up or converter part in heat that nobody read
        (C.with_(role="startup", ambient=70.0, looks="sound"), "doubtful", "unread"), (C.with_(role="startup", ambient=70.0, esr=0.5), "sound", "age"),
        (C.with_(role="converter_output", ambient=65.0, looks="sound", esr=0.5, in_circuit=True), "doubtful", "unread"),
        (C.with_(role="startup", ambient=50.0, looks="sound"), "not seen", "age"),
        # 35 V on 36 V
        (Fitted(ref="C1", value=100e-6, volts=35.0, rail_volts=36.0, esr=0.2), "replace", "volts"), (Fitted(ref="C1", value=100e-6, volts=35.0, rail_volts=35.0, esr=0.2), "sound", "age"),
        (Fitted(ref="C1", value=100e-6, volts=35.0, rail_volts=-36.0, esr=0.2), "replace", "volts"),
    ],
)  # fmt: skip
def test_sound_is_earned(part, name, rule):
    verdict = judge(part, year=2026, made=1986)
    assert (verdict.name, verdict.evidence[0].rule) == (name, rule)
    assert verdict.shown == ("not measured" if name == "not seen" else name)


@pytest.mark.parametrize(
    ("policy", "replaced", "why"),
    [
        ("renew", True, "replaces all"),
        ("mend", False, "measure it first"),
        ("cohort", False, "measure it first"),
        ("staged", False, "after what is bad"),
    ],
)
def test_what_is_not_measured_by_policy(policy, replaced, why):
    part = C.with_(looks="sound")
    decision = decide(part, judge(part, year=2026, made=1986), policy)
    assert decision.replace is replaced and why in decision.why
