"""Shared by all tests: no display, settings of the tests' own, helpers found by name."""

import os
import sys
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]


@pytest.fixture(autouse=True)
def own_settings(tmp_path, monkeypatch):
    """Tests never touch the user's settings."""
    monkeypatch.setenv("ANAKINEMA_CONFIG", str(tmp_path / "config"))
