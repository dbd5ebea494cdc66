"""Small documents that say enormous things are refused in words, and nothing is worked out first that would not fit."""

from typing import Any

import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError, suggestion

POINT = {"points": {"A": [0, 0]}}


def nested(deep: int, backwards: bool = False) -> dict[str, Any]:
    """Sub-assemblies each of which holds the one before."""
    made = {f"a{k}": {"parts": {"x": {"assembly": f"a{k - 1}"} if k else POINT}} for k in range(deep)}
    if backwards:
        made = dict(reversed(list(made.items())))
    return {"anakinema": 1, "assemblies": made, "parts": {"top": {"assembly": f"a{deep - 1}"}}}


def copies(count: int, last: int, backwards: bool = False) -> dict[str, Any]:
    """Copies each of which is one of the one before; the first of none, or of a `last` one: a circle."""
    parts = {f"p{k}": {"of": f"p{k - 1 if k else last}"} if k or last else POINT for k in range(count)}
    return {"anakinema": 1, "parts": dict(reversed(list(parts.items()))) if backwards else parts}


@pytest.mark.parametrize(("tree", "told"), [
    (nested(1600), "nested more than 64 deep"), (nested(1600, True), "nested more than 64 deep"),
    (copies(5000, 0), "more than 100 deep"), (copies(5000, 0, True), "more than 100 deep"),
    (copies(5000, 4999), "more than 100 deep"), (copies(3, 2), "is a copy of itself: p0 → p2 → p1 → p0"),
    ({"anakinema": 1, "parts": {"p": {"of": ["p"]}}}, "there is no part"),
    ({"anakinema": 1, "parameters": {f"length{k}": 1 for k in range(2000)},
      "parts": {f"p{k}": {"points": {"A": [f"lenght{k}", 0]}} for k in range(2000)}}, "did you mean 'length0'"),
])  # fmt: skip
def test_what_is_nested_or_copied_without_end_is_refused(tree: dict[str, Any], told: str):
    with pytest.raises(DocumentError) as refused:
        read_document(tree)
    assert told in str(refused.value.faults[0])


def test_what_is_nested_as_deep_as_anybody_nests_is_read():
    assert len(read_document(nested(60)).parts) == 1
    assert read_document(copies(100, 0)).parts["p99"].points == {"A": (0.0, 0.0)}


@pytest.mark.parametrize("slip", ["crnak512", "cank512", "craank512", "crank52", "crenk512"])
def test_the_nearest_of_very_many_names_is_found(slip: str):
    assert suggestion(slip, [f"crank{k}" for k in range(2000)]).startswith(" (did you mean 'crank5")
