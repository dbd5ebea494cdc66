"""Short versions of the random user and of the fuzz of files; `make monkey` and `make fuzz` run them for long."""

import json
import os
import subprocess
import sys
from pathlib import Path

from patience import patient

HERE = Path(__file__).parent


def test_a_random_user_breaks_nothing(tmp_path):
    message = tmp_path / "told.json"
    command = [sys.executable, str(HERE / "hour.py"), "--seconds", "15", "--seed", "42", "--child", str(message)]
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "ANAKINEMA_CONFIG": str(tmp_path)}
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False, timeout=patient(120))
    assert done.returncode == 0, done.stderr[-3000:]
    result = json.loads(message.read_text())
    assert result["exceptions"] == 0, done.stderr[-3000:]
    assert sum(result["actions"].values()) > 30


def test_what_the_host_took_is_not_the_windows(monkeypatch):
    monkeypatch.syspath_prepend(str(HERE))
    from machine import Clocks

    gap = Clocks(13.0, 1.25, 0.5, (0.5, 7.25)).since(Clocks(11.0, 1.0, 0.25, (0.0, 6.0)))
    assert gap == (2.0, 0.25, 0.25, (0.5, 1.25)) and gap.own == 0.75
    before = Clocks.read()
    assert sum(k * k for k in range(300_000)) > 0  # some work
    passed = Clocks.read().since(before)
    assert 0.0 < passed.worked < passed.now + 0.02  # the clocks are not one


def test_mutants_of_the_examples_are_answered_or_refused():
    command = [sys.executable, str(HERE / "files.py"), "--count", "80", "--seed", "500000", "--processes", "1"]
    done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=patient(300))
    assert done.returncode == 0, done.stdout[-3000:]
    assert "mutants 80 from seed 500000" in done.stdout
