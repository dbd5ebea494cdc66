"""The machine code: keyed by all its sources, safe at its bounds, free of reference counts."""

import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

import numba
import numpy as np
import pytest

import anakinema
from anakinema.compiling import calls, marks, store, translate
from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.kinematics.simulation import simulate
from mechanisms import four_bar
from patience import patient

SOURCES = Path(anakinema.__file__).parent
ASKED = """
import numpy as np
from anakinema.kinematics.kernels.rows import values
from anakinema.kinematics.kernels.tables import Table
term = np.array([[0, 0, 1]]), np.array([[0, 0, 0, 0, 0, 1, 0, 1.0, 0, 0, 0, 0]])
table = Table(*term, np.array([0, 1]), np.array([-1]), np.zeros((1, 2)), np.zeros((0, 12)))
found = np.empty((1, 1))
values(table, np.array([[[0, 0, 0], [3.0, 5, 0]]]), np.empty((2, 2)), found)
print(found[0, 0])
import sys
assert ("numba" in sys.modules) == (sys.argv[1] == "compiles"), "Numba is loaded only to compile"
"""


def asked(folder: Path, how: str) -> float:
    """The value of a row of a term of kind 0 between bodies 3 apart along x and 5 along y, by the sources in a folder;
    whether it `compiles` or `loads` what is kept is checked."""
    environment = {**os.environ, "PYTHONPATH": str(folder), "XDG_CACHE_HOME": str(folder / "cache")}
    done = subprocess.run(
        [sys.executable, "-c", ASKED, how], env=environment, capture_output=True, text=True, check=False,
        timeout=patient(300),
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return float(done.stdout)


def test_a_changed_constant_changes_what_runs(tmp_path):
    """The constant stands in one file, the kernel that uses it in another: old machine code must not run on."""
    shutil.copytree(SOURCES, tmp_path / "anakinema", ignore=shutil.ignore_patterns("__pycache__"))
    kept, kernels = tmp_path / "anakinema", tmp_path / "anakinema/kinematics/kernels"
    assert asked(tmp_path, "compiles") == 3.0
    assert asked(tmp_path, "loads") == 3.0
    stores = list(kept.glob("__pycache__/machine-code-*"))
    assert len(stores) == 1 and any(stores[0].glob("*.o"))
    tables = kernels / "tables.py"
    text = tables.read_text()
    assert "X, Y, ANGLE, PROJECTION" in text
    tables.write_text(text.replace("X, Y, ANGLE, PROJECTION", "Y, X, ANGLE, PROJECTION"))
    assert asked(tmp_path, "compiles") == 5.0
    assert len(list(kept.glob("__pycache__/machine-code-*"))) == 1  # the old store is gone


def test_the_private_switch_is_still_one():
    """Machine code without reference counts rests on a switch that Numba may drop or rename."""
    if numba.config.BOUNDSCHECK:
        pytest.skip("with bounds checks it is left on")
    assert translate.OPTIONS["_nrt"] is False

    def twice(x):
        return 2 * x

    def made(x):
        return np.ones(3) * x

    assert translate.JIT(**translate.OPTIONS)(twice)(2.0) == 4.0
    with pytest.raises(Exception, match="Only accept returning of array passed into"):
        translate.JIT(**translate.OPTIONS)(made)(2.0)


class Pair(NamedTuple):
    """Numbers and arrays together, as tables are."""

    weights: np.ndarray
    place: complex


def mixed(pair: Pair, matrix: np.ndarray, up: bool, power: int, factor: float) -> tuple[float, int, complex, bool]:
    """Something of every kind that kernels take and give; it writes into an array too."""
    total = 0.0
    for i in range(matrix.shape[0]):
        for j in range(matrix.shape[1]):
            total += pair.weights[j] * matrix[i, j]
        matrix[i, 0] = i
    return (total * factor if up else -total), power + 1, pair.place * 1j, total > 0.0


@pytest.mark.parametrize("strided", [False, True])
def test_machine_code_takes_and_gives_what_python_would(strided, monkeypatch):
    """Called without Numba: numbers, truths, complex numbers, tuples, and arrays that lie in one piece or don't."""
    monkeypatch.setitem(marks.HOW, mixed, "inner")
    kernel = calls.Kernel(mixed)
    monkeypatch.setitem(marks.HOW, kernel, "called")
    monkeypatch.setattr(calls, "checked", lambda: False)
    monkeypatch.setattr(store, "stores", lambda: ())  # made for this test only, and not kept
    whole = np.arange(24.0).reshape(4, 6)
    one, two = (whole.copy()[:, ::2], whole.copy()[:, ::2]) if strided else (whole[:, :3].copy(), whole[:, :3].copy())
    for up, power, factor in ((True, 2, 0.5), (False, np.int64(-7), np.float64(3))):
        pair = Pair(np.array([1.0, 2.0, -1.0]), 2 + 1j)
        assert kernel(pair, one, up, power, factor) == mixed(pair, two, up, power, factor)
        assert np.array_equal(one, two)
    with pytest.raises(TypeError, match="not a str"):
        kernel(pair, one, True, 1, "0.5")


BETWEEN = [
    {"type": "revolute"}, {"type": "fixed"}, {"type": "prismatic", "direction": 0},
    {"type": "pin-slot", "direction": 0}, {"type": "distance", "length": 0.5}, {"type": "slide-arc", "radius": 1},
]  # fmt: skip


@pytest.mark.parametrize("joint", BETWEEN, ids=lambda joint: joint["type"])
@pytest.mark.parametrize("moving", [0, 1])
def test_joints_between_fixed_parts_write_nowhere(joint, moving):
    """Rows without a moving body have no column: they are checked once, and never reach the machine code."""
    spot = {"points": {"O": [0, 0]}}
    wall = {"fixed": True, **spot, "pose": [0.5 if joint["type"] == "distance" else joint.get("radius", 0), 0, 0]}
    parts = {"frame": {"fixed": True, **spot}, "wall": wall}
    joints = {"between": {"a": "frame.O", "b": "wall.O", **joint}}
    if moving:
        parts["arm"] = spot
        joints["pin"] = {"type": "revolute", "a": "frame.O", "b": "arm.O"}
    found = analyse(read_document({"anakinema": 1, "parts": parts, "joints": joints}))
    assert found.motion.mobility.dof == moving


@pytest.mark.parametrize("left_free", [False, True])
def test_positions_that_are_no_numbers_close_nothing(left_free):
    """Every comparison with what is no number is false, so `max` passes over it: the largest residual of such positions
    would be none at all, and they would count as being on all rows."""
    tree = four_bar(40, 120, 80, 100, drivers={"turn": {"joint": "main", "to": 90}})
    if left_free:
        tree["parts"]["arm"] = {"points": {"P": [0, 0]}, "pose": [100, 0, 0]}
        tree["joints"]["free"] = {"type": "revolute", "a": "frame.D", "b": "arm.P"}
    motion = simulate(read_document(tree))
    q = motion.path.pieces[0].q[0].copy()
    q[motion.system.body("crank"), 2] = np.nan
    targets, rates, seconds = (each[0] for each in motion.path.laws[0].sampled(np.zeros(1)))
    if left_free:
        assert motion.drive.minimum_norm.close(q, targets) < 0.0
    else:
        assert motion.drive.minimum_norm is None
        assert motion.drive.equations.settle(q, targets, rates, seconds)[0] == 0.0
