"""Reading a drawing in a process of its own, with a budget of processor and memory: a small file can say enormous ones.

The process is ended when the reading is called off or its time is up, and by the system when its owner is gone.
"""

import os
import pickle
import resource
import select
import signal
import subprocess
import sys
import time
from pathlib import Path

from ...cancellation import CancellationToken
from ...errors import DocumentError, located
from ...geometry.drawn import Drawing
from ...lifetimes import serve_only

SECONDS, MEMORY = 20, 2 << 30
"""What reading may take of the processor (s), and of memory (bytes)."""
LONGEST = 90.0
"""Seconds of the clock after which it is given up."""
LOOK = 0.05
OUT_OF_MEMORY = 3
"""The exit code of a reader that has no more memory."""


def read_within(path: Path, work: CancellationToken | None = None) -> Drawing:
    """The curves of a drawing file, by layer. Raises `DocumentError` for what is damaged beyond use, is no drawing, or
    takes more than it may; `Cancelled`."""
    work, end = work or CancellationToken(), time.monotonic() + LONGEST
    command = [sys.executable, "-P", "-m", "anakinema.formats.drawings", str(path), str(os.getpid()), str(SECONDS)]
    found = bytearray()
    with subprocess.Popen(
        command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    ) as reader:
        assert reader.stdout is not None
        try:
            while True:
                work.check()
                if time.monotonic() > end:
                    raise located("", f"takes longer than {LONGEST:.0f} s to be read; leave out what is no outline")
                if select.select([reader.stdout], [], [], LOOK)[0]:
                    piece = os.read(reader.stdout.fileno(), 1 << 20)
                    if not piece:
                        break
                    found += piece
        finally:
            reader.kill()
    code = reader.wait()
    if code == -signal.SIGXCPU:
        raise located("", f"takes more than {SECONDS} s of computing to be read; leave out what is no outline")
    if code == OUT_OF_MEMORY or not found:
        raise located("", f"can't be read with {MEMORY >> 30} GB of memory; leave out what is no outline")
    told: Drawing | DocumentError = pickle.loads(found)  # by our own process, of what it has read
    if isinstance(told, DocumentError):
        raise told
    return told


def serve(path: Path, owner: int, seconds: int) -> int:
    """Reads a drawing within a budget of the processor (s) and of memory, and writes it, or why it can't be read, to
    standard output."""
    serve_only(owner)
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 5))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    from . import read_drawing

    try:
        told: Drawing | DocumentError = read_drawing(path)
    except DocumentError as error:
        told = error
    except MemoryError:
        return OUT_OF_MEMORY
    try:
        sys.stdout.buffer.write(pickle.dumps(told))
        sys.stdout.buffer.flush()
    except MemoryError:
        return OUT_OF_MEMORY
    return 0
