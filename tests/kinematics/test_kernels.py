"""The machine code: keyed by all its sources, safe at its bounds, free of reference counts."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import numba
import numpy as np
import pytest

import anakinema
from anakinema import compiling
from anakinema.document import read_document
from anakinema.findings import analyse

SOURCES = Path(anakinema.__file__).parent
ASKED = """
from anakinema.kinematics.kernels.terms import term
print(term(0, 3.0, 5.0, 0.0, 1.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0)[0])
"""


def asked(folder: Path) -> float:
    """The value of a term of kind 0 between bodies 3 apart along x and 5 along y, by the sources in a folder."""
    environment = {**os.environ, "PYTHONPATH": str(folder), "XDG_CACHE_HOME": str(folder / "cache")}
    done = subprocess.run(
        [sys.executable, "-c", ASKED], env=environment, capture_output=True, text=True, check=False, timeout=300
    )
    assert done.returncode == 0, done.stderr
    return float(done.stdout)


def test_a_changed_constant_changes_what_runs(tmp_path):
    """The constant stands in one file, the kernel that uses it in another: old machine code must not run on."""
    shutil.copytree(SOURCES, tmp_path / "anakinema", ignore=shutil.ignore_patterns("__pycache__"))
    kept, kernels = tmp_path / "anakinema", tmp_path / "anakinema/kinematics/kernels"
    assert asked(tmp_path) == 3.0
    stores = list(kept.glob("__pycache__/machine-code-*"))
    assert len(stores) == 1 and any(stores[0].rglob("*.nbi"))
    tables = kernels / "tables.py"
    text = tables.read_text()
    assert "X, Y, ANGLE, PROJECTION" in text
    tables.write_text(text.replace("X, Y, ANGLE, PROJECTION", "Y, X, ANGLE, PROJECTION"))
    assert asked(tmp_path) == 5.0
    assert len(list(kept.glob("__pycache__/machine-code-*"))) == 1  # the old store is gone


def test_the_private_switch_is_still_one():
    """Machine code without reference counts rests on a switch that Numba may drop or rename."""
    if numba.config.BOUNDSCHECK:
        pytest.skip("with bounds checks it is left on")
    assert compiling.OPTIONS["_nrt"] is False

    def twice(x):
        return 2 * x

    def made(x):
        return np.ones(3) * x

    assert compiling.JIT(**compiling.OPTIONS)(twice)(2.0) == 4.0
    with pytest.raises(Exception, match="Only accept returning of array passed into"):
        compiling.JIT(**compiling.OPTIONS)(made)(2.0)


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
