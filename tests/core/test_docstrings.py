"""What the docstrings of core and instruments show is what comes out."""

import doctest
import importlib
import pkgutil

import pytest

import idlebench.core
import idlebench.instruments

MODULES = [
    name
    for room in (idlebench.core, idlebench.instruments)
    for _, name, _ in pkgutil.walk_packages(room.__path__, f"{room.__name__}.")
]


@pytest.mark.parametrize("name", MODULES)
def test_the_examples_hold(name):
    result = doctest.testmod(importlib.import_module(name))
    assert result.failed == 0


def test_there_are_examples_to_hold():
    """A move of the rooms must not leave this file looking at nothing."""
    found = sum(doctest.testmod(importlib.import_module(name)).attempted for name in MODULES)
    assert found >= 20, found
