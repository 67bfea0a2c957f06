"""Triage before a survey: by how a machine looks, and what was decided by hand."""

import pytest

from idlebench.core.judge.triage import CONDITIONS, DONOR, REPAIR, WAIT, UnitFacts, estimate, read_condition
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("", ()),
        ("burnt, corroded", ("burnt", "eaten")),
        ("wet wet", ("wet",)),
        ("Soaked;rust", ("wet", "rusty")),
        ("clean", ("clean",)),
    ],
)
def test_how_it_looks_is_read_in_peoples_words(typed, words):
    assert read_condition(typed) == words
    assert all(word in CONDITIONS for word in words)


def test_another_word_is_refused_with_the_nearest():
    with pytest.raises(BadInput) as error:
        read_condition("burned")
    assert error.value.instead


@pytest.mark.parametrize(
    ("facts", "suggestion", "says"),
    [
        ({}, WAIT, "say how it looks"),
        ({"condition": ("eaten", "burnt"), "worth": 60.0}, DONOR, "Looks eaten"),
        ({"condition": ("rusty",), "worth": 300.0}, WAIT, "by its looks alone it may be saved"),
        ({"condition": ("eaten",)}, WAIT, "Looks eaten"),
        (
            {"condition": ("eaten", "burnt"), "worth": 60.0, "decided": "save", "why": "the only one left"},
            REPAIR,
            "the only one left",
        ),
        ({"decided": "donor", "why": "traces eaten"}, DONOR, "Decided by hand: donor, traces eaten"),
        ({"decided": "wait"}, WAIT, "Decided by hand: wait"),
    ],
)
def test_a_machine_that_nobody_surveyed_is_weighed_by_its_looks(facts, suggestion, says):
    found = estimate(UnitFacts(name="C", surveyed=False, **facts), rate=20.0)
    assert found.suggestion == suggestion and any(says in reason for reason in found.reasons), found.reasons


def test_once_surveyed_the_looks_add_no_damage():
    plain = estimate(UnitFacts(name="A", swaps=("radial",), worth=100.0), rate=20.0)
    looked = estimate(UnitFacts(name="A", swaps=("radial",), worth=100.0, condition=("eaten",)), rate=20.0)
    assert looked.minutes == plain.minutes and looked.suggestion == plain.suggestion
