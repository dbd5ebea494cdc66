"""Changes as data: all or nothing, and every reference follows another name."""

import json

import pytest

from anakinema.document import Remove, Rename, Set, changed, read_document
from anakinema.document.references import references
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats import project

NAMED = ("parts", "joints", "parameters", "drivers", "traces", "checks", "pairs")


def places(document):
    """Everything that has a name."""
    for section in NAMED:
        for key, entry in document.tree.get(section, {}).items():
            yield (section, key)
            if section == "parts":
                yield from ((section, key, word, name) for word in ("points", "edges") for name in entry.get(word, {}))


@pytest.mark.parametrize("name", project.EXAMPLES)
def test_all_names_can_be_changed_and_nothing_is_left_behind(name):
    """Every entry gets another name, one after the other: the mechanism is the same."""
    before, _ = project.example(name)
    after = before
    for number, place in enumerate(list(places(before))):
        now = list(place)
        if len(place) == 4:  # its part has another name by now
            now[1] = next(key for key, old in zip(after.tree["parts"], before.tree["parts"], strict=True)
                          if old == place[1])
        after = changed(after, Rename(now, f"new{number}"))
    assert {len(reference.text) for reference in references(after)}
    assert len(list(references(after))) == len(list(references(before)))
    text = json.dumps(after.tree)
    assert text.count("new") >= len(list(places(before)))
    both = [analyse(document, steps=12) for document in (before, after)]
    for one, two in zip(both[0].verdicts.values(), both[1].verdicts.values(), strict=True):
        assert (one.value, one.outcome) == (two.value, two.outcome)
    assert [name for name in after.joints if "/" not in name] == [f"new{n}" for n, place in enumerate(places(before))
                                  if place[0] == "joints" and place[1] in before.joints]


ARM = {
    "anakinema": 1,
    "parameters": {"P": 8, "long": "2*P", "P2": 3},
    "parts": {
        "base": {"fixed": True, "points": {"P": [0, 0]}},
        "arm": {
            "points": {"P": [0, 0], "Q": ["long", "P + P2"]},
            "shapes": [{"kind": "bar", "through": ["P", "Q"], "width": "P"}],
        },
    },
    "joints": {"P": {"type": "revolute", "a": "base.P", "b": "arm.P"}},
    "drivers": {"P": {"joint": "P", "to": 90}},
}


def test_one_name_for_many_things_is_changed_for_one_of_them_only():
    document = read_document(ARM)
    tree = changed(document, Rename(["parameters", "P"], "wide")).tree
    assert tree["parameters"] == {"wide": 8, "long": "2*wide", "P2": 3}
    assert tree["parts"]["arm"]["points"] == {"P": [0, 0], "Q": ["long", "wide + P2"]}
    assert tree["parts"]["arm"]["shapes"][0] == {"kind": "bar", "through": ["P", "Q"], "width": "wide"}
    tree = changed(document, Rename(["parts", "arm", "points", "P"], "O")).tree
    assert tree["joints"]["P"] == {"type": "revolute", "a": "base.P", "b": "arm.O"}
    assert tree["parts"]["arm"]["shapes"][0] == {"kind": "bar", "through": ["O", "Q"], "width": "P"}
    tree = changed(document, Rename(["joints", "P"], "hinge")).tree
    assert list(tree["joints"]) == ["hinge"] and tree["drivers"] == {"P": {"joint": "hinge", "to": 90}}


def test_changes_are_all_or_nothing_and_say_why():
    document = read_document(ARM)
    with pytest.raises(DocumentError, match="taken already"):
        changed(document, Set(["title"], "x"), Rename(["parts", "arm"], "base"))
    with pytest.raises(DocumentError, match="no such entry"):
        changed(document, Rename(["parts", "leg"], "foot"))
    with pytest.raises(DocumentError, match="only letters"):
        changed(document, Rename(["parts", "arm"], "two words"))
    with pytest.raises(DocumentError, match="there is no part 'arm'"):
        changed(document, Remove(["parts", "arm"]))
    gone = changed(document, Remove(["drivers", "P"]), Remove(["joints", "P"]), Remove(["parts", "arm"]))
    assert gone.tree["parts"] == {"base": ARM["parts"]["base"]} and document.tree == ARM
