"""Whole commands, each a process of its own: what a user waits for, and what it takes of the memory."""

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from importlib.resources import files
from pathlib import Path
from typing import Any

from anakinema.formats.project import EXAMPLES

from . import mechanisms
from .measure import growth

IMPORTS = """
import time; start = time.perf_counter()
import numpy, scipy.linalg, PySide6.QtWidgets
print(time.perf_counter() - start)
"""
FIRST_PAINT = """
import time; start = time.perf_counter()
from anakinema_desk.application import make_application, open_window
app = make_application()
window = open_window(demo=True)
begin = window.painted
def painted():
    global at
    at = time.perf_counter() - start
    begin()
window.painted = painted
def judged():
    if window.session.findings is not None:
        app.quit()
window.session.analysis.changed.connect(judged)
app.exec()
print(at, time.perf_counter() - start)
window.session.editor.source = None
window.close()
window.session.stop()
"""


def timed(words: list[str]) -> tuple[float, float, int]:
    """Seconds, memory (MB) and exit code of a command."""
    start = time.perf_counter()
    process = subprocess.Popen([sys.executable, *words], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, status, used = os.wait4(process.pid, 0)
    return time.perf_counter() - start, used.ru_maxrss / 1024, os.waitstatus_to_exitcode(status)


def run(tree: dict[str, Any], folder: Path, repeats: int = 1) -> tuple[float, float, int]:
    """``anakinema run FILE --csv OUT --json OUT``: the shortest of several runs."""
    path = folder / "bench.anakinema"
    path.write_text(json.dumps(tree))
    words = ["-m", "anakinema.cli", "run", str(path), "--csv", str(folder / "o.csv"), "--json", str(folder / "o.json")]
    return min(timed(words) for _ in range(repeats))


def loops() -> None:
    print("\nanakinema run FILE --csv OUT --json OUT for n four-bar loops in a row, 360 steps, as a whole")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        bare = min(timed(["-c", "import numpy, scipy.linalg"])[0] for _ in range(3))
        run(mechanisms.four_bars(1), folder)
        before: tuple[int, float] | None = None
        for count in (1, 10, 40, 80, 160):
            seconds, memory, _ = run(mechanisms.four_bars(count), folder, 3)
            grown = growth(count, seconds, before)
            print(f"  {count:4d} loops   {seconds:5.2f} s   {memory:5.0f} MB   {grown:>6}   "
                  f"{seconds / bare:5.1f} times importing NumPy and SciPy ({bare:.2f} s)")
            before = (count, seconds)
    print("  (wanted: one loop 0.9 s, 40 loops 1.5 s, 160 loops 3 s)")


def demo() -> None:
    print("\nanakinema run of the demo, as a whole, each in turn, the shortest of 7")
    file = files("anakinema").joinpath(f"examples/{next(iter(EXAMPLES))}.anakinema")
    words = ["-m", "anakinema.cli", "run", str(file)]
    bare = ["-c", "import numpy, scipy.sparse, scipy.sparse.csgraph, scipy.sparse.linalg"]
    both = [(timed(words)[0], timed(bare)[0]) for _ in range(7)]
    run_, imports = (min(each) for each in zip(*both, strict=True))
    print(f"  {run_:.2f} s, {run_ / imports:.2f} times importing NumPy and SciPy's sparse parts ({imports:.2f} s)")
    print("  (wanted: within 2)")


def hard() -> None:
    print("\nFiles that ask for much: an answer or a clear refusal")
    with tempfile.TemporaryDirectory() as name:
        for what, tree in mechanisms.hard().items():
            seconds, memory, code = run(tree, Path(name))
            print(f"  {what:<46} {seconds:5.1f} s   {memory:5.0f} MB   {'refused' if code == 2 else 'answered'}")
    print("  (wanted: within 10 s and 2,048 MB)")


def cold_start() -> None:
    print("\nCold start of the window, each in a process of its own, median of 5")
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "ANAKINEMA_CONFIG": tempfile.mkdtemp()}

    def message(code: str) -> list[float]:
        done = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True)
        return [float(word) for word in done.stdout.split()]

    message(FIRST_PAINT)
    starts = [message(FIRST_PAINT) for _ in range(5)]
    imports = statistics.median(message(IMPORTS)[0] for _ in range(5))
    painted, judged = (statistics.median(each) for each in zip(*starts, strict=True))
    print(f"  window with the demo painted after {painted:.2f} s, demo judged after {judged:.2f} s")
    print("  (wanted: painted within 1 s, judged within 2 s)")
    print(f"  that is {painted / imports:.1f} times what importing NumPy, SciPy and Qt alone takes ({imports:.2f} s)")


ALL = (demo, loops, hard, cold_start)
