"""Arranging layers: against enumeration on small cases; arranged stacks never collide."""

from itertools import product
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.cli import main
from anakinema.document import read_document
from anakinema.document.changes import changed
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.project import dumps, example
from anakinema.studies.arranging import arrange, changes_of


def arms(*given: tuple[float, float, float]) -> dict[str, Any]:
    """A thin plate and arms on it, each pinned at a place on the x axis with its length and thickness; all in one
    depth, in which they meet; each turns by itself."""
    parts: dict[str, Any] = {
        "frame": {"fixed": True, "points": {f"O{k}": [x, 0] for k, (x, _, _) in enumerate(given)}, "depth": [0, 2],
                  "shapes": [{"kind": "rectangle", "center": [0, 0], "size": [400, 40]}]}}  # fmt: skip
    joints, drivers = {}, {}
    for k, (_, length, thick) in enumerate(given):
        parts[f"arm{k}"] = {"points": {"O": [0, 0], "P": [length, 0]}, "depth": [2, 2 + thick],
                            "pose": [given[k][0], 0, 0],
                            "shapes": [{"kind": "bar", "through": ["O", "P"], "width": 6}]}  # fmt: skip
        joints[f"turn{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"arm{k}.O"}
        drivers[f"drive{k}"] = {"joint": f"turn{k}", "from": 0, "to": 360, "steps": 8}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def meets(one: tuple[float, float, float], two: tuple[float, float, float]) -> bool:
    """Whether two arms that turn together, side by side, ever meet: both point the same way all along."""
    first, second = sorted((one, two))
    return second[0] - first[0] < 3 + 3 or first[0] + first[1] + 3 > second[0] - 3


def fewest(given: list[tuple[float, float, float]]) -> int:
    """The fewest layers above the plate by trying all: two that meet may not share one, and an arm that sweeps over the
    pivot of another may not lie under it."""
    count = len(given)
    for layers in range(1, count + 1):
        for levels in product(range(layers), repeat=count):
            apart = all(levels[i] != levels[j] for i in range(count) for j in range(i) if meets(given[i], given[j]))
            pins = all(levels[i] > levels[j] for i in range(count) for j in range(count)
                       if i != j and over(given[i], given[j]))  # fmt: skip
            if apart and pins:
                return layers
    return 0


def over(one: tuple[float, float, float], two: tuple[float, float, float]) -> bool:
    """Whether an arm sweeps over the pin (radius 2) of another."""
    return abs(two[0] - one[0]) <= one[1] + 3 + 2


PLACES = st.lists(st.tuples(st.sampled_from([-150.0, -90.0, -30.0, 30.0, 90.0, 150.0]),
                            st.sampled_from([20.0, 48.0, 80.0, 130.0]), st.sampled_from([2.0, 3.0, 5.0])),
                  min_size=1, max_size=4, unique_by=lambda one: one[0])  # fmt: skip


@given(PLACES)
@settings(max_examples=25, deadline=None)
def test_it_is_as_few_as_enumeration_finds_and_nothing_collides(given: list[tuple[float, float, float]]) -> None:
    document = read_document(arms(*given))
    found, wanted = arrange(document), fewest(given)
    assert found.proven
    if not wanted:
        assert not found.possible
        return
    assert found.possible and len(found.layers) - 1 == wanted
    proposed = changed(document, *changes_of(document, found))
    assert dumps(proposed) == dumps(found.document)
    findings = analyse(proposed)
    assert all(one.distance is None or one.distance > -1e-6 for one in findings.approaches)
    assert not findings.same_depth
    for name, part in proposed.parts.items():
        before = document.parts[name]
        assert part.depth[1] - part.depth[0] == pytest.approx(before.depth[1] - before.depth[0])


@pytest.mark.parametrize("name", ["quick-return", "folder-drive", "jogger-table", "transfer-arm", "clamp"])
def test_the_examples_are_arranged_without_a_collision(name: str) -> None:
    document, _ = example(name)
    found = arrange(document, [next(iter(document.fixed_parts))])
    assert found.possible and found.document is not None
    findings = analyse(found.document)
    assert all(one.distance is None or one.distance > -1e-6 for one in findings.approaches)


def test_what_no_order_allows_is_told_with_who_is_in_the_way() -> None:
    """Two held parts that meet in one depth; and two arms that each sweep over the other's pin."""
    document = read_document(arms((0, 60, 2), (40, 60, 2)))
    held = arrange(document, ["arm0", "arm1"][:1])
    assert not held.possible and {"arm0", "arm1"} & set(held.clashes[0].parts)
    tree = arms((0, 60, 2), (40, 20, 2), (150, 20, 2))
    tree["parts"]["arm1"]["fixed"] = True
    tree["joints"].pop("turn1"), tree["drivers"].pop("drive1")
    both = arrange(read_document(tree), ["arm0", "frame"][:1])
    assert [clash.parts for clash in both.clashes] == [("arm0", "arm1")]
    with pytest.raises(DocumentError, match="no such part to hold"):
        arrange(document, ["amr"])
    with pytest.raises(DocumentError, match="nothing may be moved"):
        arrange(document, ["arm0", "arm1", "frame"])


def test_the_command_tells_it_and_writes_what_is_proposed(tmp_path: Any, capsys: Any) -> None:
    path, out = tmp_path / "a.anakinema", tmp_path / "b.anakinema"
    path.write_bytes(dumps(read_document(arms((-30, 80, 2), (90, 20, 3)))))
    assert main(["arrange", str(path), "--gap", "0.5", "--take", str(out), "--json", str(tmp_path / "j.json")]) == 0
    assert "layers, fewest possible" in capsys.readouterr().out
    assert main(["arrange", str(out)]) == 0 and "layers" in capsys.readouterr().out
    crossed = tmp_path / "c.anakinema"
    crossed.write_bytes(dumps(read_document(arms((0, 60, 2), (40, 60, 2)))))
    assert main(["arrange", str(crossed)]) == 1
    assert "arm" in capsys.readouterr().out
