"""The examples in the docstrings say what is so."""

import doctest
import importlib
import pkgutil

import pytest

import anakinema
import anakinema_desk

MODULES = [
    module.name for package in (anakinema, anakinema_desk)
    for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}.")
    if not module.name.endswith("__main__")
]


@pytest.mark.parametrize("name", MODULES)
def test_examples_hold(name):
    found = doctest.testmod(importlib.import_module(name), optionflags=doctest.NORMALIZE_WHITESPACE)
    assert found.failed == 0


def test_there_are_some():
    finder = doctest.DocTestFinder(exclude_empty=True)
    assert sum(len(test.examples) for name in MODULES for test in finder.find(importlib.import_module(name))) > 20
