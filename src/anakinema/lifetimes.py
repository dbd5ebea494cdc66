"""Processes that end with the one that started them, however that ends."""

import ctypes
import os
import signal

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
