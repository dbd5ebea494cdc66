"""Runs the benchmarks and prints ratios: everything a line compares was measured in this one run.

``python -m benchmarks [core] [clearance] [commands] [contact] [cams] [studies] [depth] [window]``: all, or those named.
"""

import subprocess
import sys
from importlib import import_module

GROUPS = ("core", "clearance", "commands", "contact", "cams", "studies", "depth", "window")

if __name__ == "__main__":
    if len(sys.argv) == 2:
        for measure in import_module(f"benchmarks.{sys.argv[1]}").ALL:
            measure()
    else:  # each in a process of its own: what a command takes of the memory counts what its parent had
        print("Anakinema benchmarks: ratios within this run; absolute times are of this machine.", flush=True)
        for group in sys.argv[1:] or GROUPS:
            subprocess.run([sys.executable, "-m", "benchmarks", group], check=True)
