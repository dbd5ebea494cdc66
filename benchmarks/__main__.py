"""Runs the benchmarks and prints ratios: everything a line compares was measured in this one run.

``python -m benchmarks [core] [commands] [window]``: all of them, or those named.
"""

import sys
from importlib import import_module

GROUPS = ("core", "commands", "window")

if __name__ == "__main__":
    print("Anakinema benchmarks: ratios within this run; absolute times are of this machine.")
    for group in sys.argv[1:] or GROUPS:
        for measure in import_module(f"benchmarks.{group}").ALL:
            measure()
