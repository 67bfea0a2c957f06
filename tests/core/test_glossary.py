"""The glossary: one sentence a term, no word twice, and only pages that there are."""

import re

import pytest

from idlebench.catalogue.glossary import BY_WORD, PAGES, TERMS, read_terms, term_for


def test_what_a_beginner_meets_is_there():
    for word in (
        "ESR", "ripple", "X class", "Y class", "reservoir", "dummy load", "lamp limiter", "reforming", "B+", "flyback", "primary side",
        "hot chassis", "bleeder", "polarity stripe", "OL",
    ):  # fmt: skip
        assert term_for(word), word


@pytest.mark.parametrize("term", TERMS, ids=lambda term: term.key)
def test_a_term_is_one_plain_sentence_with_its_pages(term):
    assert term.meaning[0].isupper() and re.fullmatch(r"[^.!?]+\.", term.meaning), "one sentence"
    assert len(term.meaning.split()) <= 28 and set(term.used) <= PAGES.keys() and term.used
    assert re.fullmatch(r"[a-z0-9-]+", term.key)


def test_no_word_means_two_things():
    words = [word.lower() for term in TERMS for word in {term.title, *term.also}]
    assert len(words) == len(set(words)) and len({term.key for term in TERMS}) == len(TERMS)
    assert len(BY_WORD) >= len(words)


def test_a_table_is_read_in_order_of_the_alphabet():
    terms = read_terms("term,meaning,used,also\nzeta,Last.,Survey,\nB+,First.,Choose|Swap,b plus\n")
    assert [term.key for term in terms] == ["b-plus", "zeta"] and terms[0].used == ("Choose", "Swap")
