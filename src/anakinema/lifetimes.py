"""Processes that end with the one that started them, however that ends."""

import ctypes
import os
import platform
import signal
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

PR_SET_PDEATHSIG = 1


def end_with(parent: int) -> None:
    """From now on this process is ended by the system as soon as its parent, a process of that number, is gone: by an
    error, a signal, or because there is no memory left."""
    prctl = getattr(ctypes.CDLL(None), "prctl", None)
    if prctl is not None:  # Linux; elsewhere it ends when it finds the other end of its channel closed
        prctl(PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
    if os.getppid() != parent:  # it has gone meanwhile
        os._exit(1)


def serve_only(parent: int) -> None:
    """The same for a worker that shares its parent's terminal: an interruption there is the parent's to act on."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with(parent)


def identity() -> dict[str, str]:
    """What tells this process from all others: its machine, since when that runs, its number, and since when it runs.
    Empty where the system does not say."""
    return {"host": platform.node(), "boot": _boot(), "number": str(os.getpid()), "since": _since(os.getpid())}


def has_ended(known: Mapping[str, Any]) -> bool:
    """Whether a process of that identity is known to run no more; of one on another machine nothing is known."""
    if known.get("host") != platform.node() or not known.get("boot") or not _boot():
        return False
    number = known.get("number", "")
    if known["boot"] != _boot():
        return True
    return isinstance(number, str) and number.isdecimal() and _since(int(number)) != known.get("since")


def _boot() -> str:
    with suppress(OSError):
        return Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    return ""


def _since(number: int) -> str:
    """When a process began, in ticks since the machine did; empty where there is none."""
    with suppress(OSError, IndexError):
        return Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[19]
    return ""
