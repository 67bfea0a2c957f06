"""Suspects: what explains what was read, two at once, signs that contradict, what to measure next, and the command."""

import json
import sys
from pathlib import Path
from types import SimpleNamespace

import pytest

from idlebench.cli import main
from idlebench.core.faults.clues import ClueReading, chance
from idlebench.core.faults.further import further
from idlebench.core.faults.hypotheses import hypotheses
from idlebench.core.faults.outcome import Past, Shop
from idlebench.core.faults.signs import read_signs
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.state import State, read_state

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "tools"))
import faulting

ON = read_state("mains 230V 50Hz; load rated")


@pytest.fixture(scope="module")
def benches():
    return faulting.supplies()


@pytest.fixture(scope="module")
def flyback(benches):
    return Inquiry(bench=benches[0])


def dc(name, value, what="dc"):
    return ClueReading(ON, Asked(point=name, what=what, typed=name), value)


def test_every_part_of_the_lines_may_fail_and_the_shares_are_one(benches):
    for bench in benches:
        many = hypotheses(bench)
        assert sum(one.prior for one in many) == pytest.approx(1.0) and all(one.prior > 0 for one in many)
        named = {one.ref for one in many}
        assert {ref for b in bench.branches for ref in b.stores} <= named and set(bench.rails) <= named
    # the shop's own count of a kind raises it
    own = hypotheses(benches[0], Shop((Past("start store", "dried"),) * 100))
    assert sum(o.prior for o in own if o.place == "start store") > 3 * sum(
        o.prior for o in hypotheses(benches[0]) if o.place == "start store"
    )


def test_dead_with_its_fuse_whole_is_the_start_and_never_a_shorted_primary(flyback):
    found = flyback.look([], read_signs("dead\nfuse whole"), ON)
    shares = {(s.ref, s.failure): s.share for s in found.suspects}
    assert shares["R5", "open"] > 0.1 and shares["C9", "dried"] > 0.05 and not found.unexplained
    assert shares.get(("Q1", "shorted"), 0) < 0.01 and shares.get(("X1", "shorted"), 0) < 0.01
    gone = flyback.look([], read_signs("fuse gone"), ON)
    assert {"Q1", "F1", "C7"} & {s.ref for s in gone.suspects[:4]}


def test_a_drift_between_two_severities_is_explained_and_told_in_numbers(flyback):
    """3.6 times the ESR in the one store of +12 V: no severity of the list, and named all the same."""
    from idlebench.core.simulate.sitting import Sitting
    from idlebench.core.simulate.truth import read_truth

    esr = flyback.bench.stores["C18"].esr
    sitting = Sitting(bench=flyback.bench, faults=read_truth(f"C18 esr {3.6 * esr:g}"), state=ON)
    read = [
        faulting.take(sitting, ON, Asked(point=rail, what=what, typed=rail))
        for rail in ("+5 V", "+12 V")
        for what in ("dc", "ripple_switching")
    ]
    found = flyback.look(read, (), ON)
    assert found.suspects[0].ref == "C18" and not found.unexplained and not found.pairs and not found.nothing_wrong
    assert any("ripple_switching" in line and "explains" in line for line in found.suspects[0].speaks_for)


def test_two_at_once_only_where_no_single_one_explains(flyback):
    """310 mV on a rail with two stores: no one of them gives over 140 mV; both dried do."""
    found = flyback.look([dc("+5 V", 4.98), dc("+5 V", 0.31, "ripple_switching"), dc("+12 V", 11.9)], (), ON)
    assert found.pairs and set(found.pairs[0].ref.split(" + ")) == {"C14", "C15"}
    assert not flyback.look([dc("+5 V", 4.98), dc("+12 V", 11.9)], (), ON).pairs
    # a sign at a part speaks among the pairs, too
    seen = [
        dc("+5 V", 4.98),
        dc("+5 V", 0.31, "ripple_switching"),
        dc("+12 V", 11.9),
        dc("+12 V", 0.30, "ripple_switching"),
    ]
    plain, smoked = (flyback.look(seen, read_signs(text, flyback.bench), ON) for text in ("", "smoke C15"))
    assert plain.pairs and smoked.pairs

    def share(found, ref):
        return sum(s.share for s in found.pairs if ref in s.ref.split(" + "))

    assert share(smoked, "C15") > share(plain, "C15")


def test_what_nothing_explains_is_said_and_what_is_sound_too(flyback):
    assert flyback.look([dc("+5 V", 5.0), dc("+12 V", 3.3), dc("−12 V", -31.0)], (), ON).unexplained
    sound = flyback.look([dc("+5 V", 5.0), dc("+12 V", 12.0)], (), ON)
    assert sound.nothing_wrong and not sound.unexplained


def test_the_next_measurement_is_safe_and_tells_them_apart(flyback):
    found = flyback.look([], read_signs("dead; fuse whole"), ON)
    idle = State(load="none")
    following = further(flyback, found, idle)
    assert 1 <= len(following) <= 3 and all(f.cold and f.bits > 0 for f in following)
    assert following == tuple(sorted(following, key=lambda f: -f.worth))
    live = further(flyback, found, ON)
    assert not any(not f.cold and f.asked.point in ("C7", "Q1", "R5") for f in live), "no live primary"
    taken = [ClueReading(f.state, f.asked, 1.0) for f in following]
    again = further(flyback, found, idle, taken)
    assert not {(f.asked.point, f.asked.what) for f in again} & {(f.asked.point, f.asked.what) for f in following}
    for f in following:
        assert 0.5 < sum(e.share for e in f.outcomes) <= 1.0001 and all(e.suspects for e in f.outcomes)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("dead\nripple +5V", "dead, and ripple"), ("fuse whole; fuse gone", "fuse whole, and fuse gone"), ("rail low +9V", "a rail that the supply makes"),
        ("rail low +5V\nrail high +5V", "rail high +5 V"), ("smoke C99", "a part of the supply"), ("it is green", "a symptom"), ("ripple", "a symptom"),
    ],
)  # fmt: skip
def test_signs_that_cannot_be(benches, text, words):
    with pytest.raises(BadInput) as told:
        read_signs(text, benches[0])
    assert words in str(told.value)


def test_hidden_faults_are_found_by_what_is_asked_for(benches):
    """A few of the table that ``make bench`` prints whole; off the severities that are supposed."""
    cases = faulting.drawn(benches, 12, 0, 5)
    hits = sum(faulting.among(faulting.search(bench, one.faults)[0][-1], one.ref) for bench, (one,) in cases)
    assert hits >= 11


def test_the_command(tmp_path, capsys):
    (tmp_path / "s.txt").write_text(faulting.FLYBACK)
    (tmp_path / "v.csv").write_text(
        "ref,value,volts,kind,role\nC7,220u,400,wet,bulk\nC9,10u,50,wet,startup\nC14,2200u,10,wet,\nC15,2200u,10,wet,\nC18,1000u,16,wet,\nC21,100u,25,wet,\n"
    )
    (tmp_path / "seen.txt").write_text("dead\nfuse whole\n")
    (tmp_path / "r.csv").write_text("point,what,value,state\nR5,ohms,OL,off\n")

    def ask(*more):
        code = main(["suspects", "--supply", str(tmp_path / "s.txt"), "--survey", str(tmp_path / "v.csv"), *more])
        told = capsys.readouterr()
        return SimpleNamespace(returncode=code, stdout=told.out, stderr=told.err)

    said = json.loads(ask("--seen", str(tmp_path / "seen.txt"), "--readings", str(tmp_path / "r.csv"), "--json").stdout)
    assert (
        set(said) == {"suspects", "next", "unexplained", "sound", "none", "pairs", "fitted"}
        and said["unexplained"] is False
    )
    first = said["suspects"][0]
    assert (
        set(first) == {"ref", "failure", "share", "for", "against", "severity"}
        and (first["ref"], first["failure"]) == ("R5", "open")
        and first["share"] > 0.9
    )
    assert sum(s["share"] for s in said["suspects"]) + said["sound"] + said["none"] == pytest.approx(1.0, abs=1e-4)
    asked = json.loads(ask("--seen", str(tmp_path / "seen.txt"), "--json").stdout)["next"][0]
    assert set(asked) == {"point", "what", "bits", "minutes", "outcomes"} and asked["bits"] > 0
    for text, words in (("R5,ohms,OL,", "everything off"), ("C99,dc,1,", "row 2"), ("+5V,dc,lots,", "row 2")):
        (tmp_path / "r.csv").write_text(f"point,what,value,state\n{text}\n")
        told = ask("--readings", str(tmp_path / "r.csv"))
        assert told.returncode == 2 and words in told.stderr and told.stderr.count("\n") == 1
    (tmp_path / "r.csv").write_text("point,value\n+5V,3\n")
    assert "columns" in ask("--readings", str(tmp_path / "r.csv")).stderr
    assert ask().returncode == 2


def test_the_table_speaks_beside_the_model_and_each_row_has_its_reason(flyback):
    """No sound and crackling with every rail as it should be: not the supply. Hum with it: the supply's own store comes up, too."""
    from idlebench.catalogue import house_evidence
    from idlebench.core.faults.by_table import by_table
    from idlebench.core.faults.signs import ALONE
    from idlebench.core.faults.table import read_evidence

    evidence = house_evidence()
    assert all(row.reason and row.source and row.ratio > 0 for row in evidence.rows) and set(evidence.signs) - {
        "stripes"
    } <= set(ALONE)
    read = [dc("+5 V", 5.0), dc("+12 V", 12.0), dc("−12 V", -12.0)]

    def outside(text):
        signs = read_signs(text)
        found = Inquiry(bench=flyback.bench, evidence=evidence, elsewhere=tuple(s.what for s in signs)).look(
            read, signs, ON
        )
        return sum(s.share for s in found.suspects if not s.faults), found

    silent, found = outside("no sound\ncrackle")
    assert silent > 0.6 and any("dirty track" in line for s in found.suspects for line in s.speaks_for)
    humming, _ = outside("no sound\nhum")
    assert 0 < humming < silent
    alone = by_table(evidence, read_signs("one bright line across"))
    assert alone[0].place in ("field store", "field joint", "field output") and sum(
        s.share for s in alone
    ) == pytest.approx(1.0)
    with pytest.raises(BadInput, match="a cause of the table"):
        read_evidence(
            "cause,title,weight,finds,failure,look,minutes\na,b,1,,c,d,1\n",
            "sign,cause,ratio,reason,source\nhum,z,2,r,s\n",
        )


def test_what_people_say_of_a_machine_is_read_as_signs():
    from idlebench.core.faults.signs import signs_in

    assert signs_in("Blew its fuse last winter. Dim, with a hum bar.") == ("fuse gone", "dim", "hum bar")
    assert signs_in("No hum. All keys work, without any crackle.") == ()
    assert signs_in("Works only when warm.") == ("works when warm",)
    assert signs_in("Picture shakes, goes dark after ten minutes.") == ("picture shakes",), "it fails warm"
    assert signs_in("") == () and signs_in("Found in the oil store. Not opened yet.") == ()


@pytest.mark.parametrize("degrees", [1, 2, 7, 40])
@pytest.mark.parametrize("miss", [0.0, 0.3, 4.0, 25.0, 300.0])
def test_the_chance_of_a_miss_is_the_upper_tail_of_chi_squared(miss, degrees):
    from scipy.stats import chi2

    assert chance(miss, degrees) == pytest.approx(chi2.sf(miss, degrees), rel=1e-9)
