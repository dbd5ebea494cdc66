"""The hours of the random user: `make monkey SECONDS=600 SEED=7` runs it and prints what it did, what went wrong and
the gaps of the event loop. A child process does the clicking, so that a crash is counted and the next seed goes on.
"""

import argparse
import faulthandler
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from user import LONG, VERY_LONG, RandomUser

from anakinema_desk.application import make_application

CHILD = 300.0
"""Seconds after which another child goes on with the next seed."""


def _child(seconds: float, seed: int, message: Path) -> None:
    """Clicks for a time, and writes what came of it."""
    faulthandler.enable()
    faulthandler.dump_traceback_later(seconds + 30, exit=True)  # it hangs: say where
    make_application()
    with tempfile.TemporaryDirectory() as folder, message.with_suffix(".log").open("w", buffering=1) as log:
        user = RandomUser(seed, Path(folder), lambda text: print(text, file=log))
        user.run(seconds)
        result = {
            "actions": user.done, "exceptions": user.exceptions, "warnings": user.warnings, "gaps": user.gaps,
            "worst": user.worst, "stuck": user.stuck,
        }  # fmt: skip
        message.write_text(json.dumps(result))
        user.leave()
    sys.stdout.flush()
    os._exit(0)


def main() -> int:
    """Runs children, each with a seed of its own, for the time asked; prints the sum."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--stuck", type=int, default=3, help="how many places to tell where the event loop stood still")
    parser.add_argument("--child", type=Path)
    asked = parser.parse_args()
    if asked.child:
        _child(asked.seconds, asked.seed, asked.child)
    end, seed, crashes = time.monotonic() + asked.seconds, asked.seed, 0
    done: Counter[str] = Counter()
    warnings: Counter[str] = Counter()
    stuck: Counter[str] = Counter()
    exceptions, gaps, worst = 0, [], []
    while (left := end - time.monotonic()) > 1:
        with tempfile.TemporaryDirectory() as folder:
            message = Path(folder) / "told.json"
            length = min(left, CHILD)
            command = [sys.executable, __file__, "--seconds", str(length), "--seed", str(seed), "--child", str(message)]
            try:
                code = subprocess.run(command, check=False, timeout=length + 90).returncode
            except subprocess.TimeoutExpired:
                code = "hangs"
            if message.exists():
                result = json.loads(message.read_text())
                done.update(result["actions"])
                warnings.update(result["warnings"])
                exceptions += result["exceptions"]
                gaps += result["gaps"]
                stuck.update(result["stuck"])
                worst += [(*entry, seed) for entry in result["worst"]]
            if code != 0 or not message.exists():
                crashes += 1
                log = message.with_suffix(".log")
                last = log.read_text().splitlines()[-12:] if log.exists() else []
                print(f"seed {seed}: ended with {code}; the last it did:", *last, sep="\n  ", flush=True)
        seed += 1
    print(f"seeds {asked.seed} to {seed - 1}, {asked.seconds:.0f} s")
    print(f"actions     {done.total()}: " + ", ".join(f"{name} {count}" for name, count in done.most_common()))
    print(f"crashes     {crashes}")
    print(f"exceptions  {exceptions}")
    print(f"Qt warnings {warnings.total()}")
    for text, count in warnings.most_common(9):
        print(f"  {count} × {text}")
    gaps.sort()
    if gaps:
        shares = [(share, gaps[min(int(share * len(gaps)), len(gaps) - 1)] * 1000) for share in (0.5, 0.99, 0.999)]
        print(f"gaps        {len(gaps)}: " + ", ".join(f"{share:.1%} under {gap:.1f} ms" for share, gap in shares))
        print(f"            longest {gaps[-1] * 1000:.0f} ms; {sum(gap > LONG for gap in gaps)} over 100 ms")
        for gap, own, worked, waited, stolen, doing, at in sorted(worst, reverse=True)[:12]:
            parts = f"{worked * 1000:.0f} at work, {waited * 1000:.0f} in line, {stolen * 1000:.0f} stolen"
            print(f"            {gap * 1000:.0f} ms ({parts}; own {own * 1000:.0f}) during {doing} (seed {at})")
        if worst:
            whole, own, worked, waited, stolen = (sum(entry[i] for entry in worst) for i in range(5))
            print(
                f"            those over 100 ms: {whole:.1f} s, {worked:.1f} at work, {waited:.1f} in line, "
                f"{stolen:.1f} stolen; longest of our own {max(entry[1] for entry in worst) * 1000:.0f} ms"
            )
        for where, count in stuck.most_common(asked.stuck):
            print(f"            seen {count} times in {where}")
    long = sum(gap <= LONG for gap in gaps) < 0.999 * len(gaps)
    too_long = any(own > VERY_LONG for _, own, *_ in worst)
    return int(bool(crashes or exceptions or too_long or long))


if __name__ == "__main__":
    sys.exit(main())
