"""Machine code on the disk.

The folder is named after a digest of all sources that are compiled (the packages `kernels`), of how they are, and of
the processor: any change begins a new one, and the old one goes, so that no old code runs on.
"""

import hashlib
import os
import shutil
import tempfile
from contextlib import suppress
from functools import cache
from importlib.metadata import version
from pathlib import Path
from typing import Any

from platformdirs import user_cache_path

from .marks import FOLDERS, HOME, HOW

PREFIX = "machine-code-"
ENDING = ".o"
SPLIT = b"\n"


def digest() -> str:
    """What the machine code depends on."""
    from .load import target

    whole = hashlib.sha256(repr((version("numba"), version("llvmlite"), target())).encode())
    for folder in (Path(__file__).parent, *FOLDERS):
        for path in sorted(folder.glob("*.py")):
            whole.update(path.name.encode() + path.read_bytes())
    return whole.hexdigest()[:16]


@cache
def store() -> Path | None:
    """The folder of the machine code: beside the sources, else among the user's caches; None where none can be written.
    Those of other sources are removed."""
    wanted = PREFIX + digest()
    for home in (HOME / "__pycache__", user_cache_path("anakinema", appauthor=False)):
        try:
            (home / wanted).mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(home / wanted, os.W_OK):
            for other in home.glob(f"{PREFIX}*"):
                if other.name != wanted:
                    shutil.rmtree(other, ignore_errors=True)
            return home / wanted
    return None


def _place(folder: Path, kernel: Any, kinds: tuple[str, ...]) -> Path:
    short = hashlib.sha256(",".join(kinds).encode()).hexdigest()[:12]
    return folder / f"{kernel.__module__}.{kernel.__name__}-{short}{ENDING}"


def kept(kernel: Any, kinds: tuple[str, ...]) -> tuple[str, bytes] | None:
    """The kind of a kernel's result for arguments of such kinds and its machine code, where they are kept."""
    folder = store()
    with suppress(OSError):
        if folder is not None:
            kind, split, code = _place(folder, kernel, kinds).read_bytes().partition(SPLIT)
            if split:
                return kind.decode(), code
    return None


def keep(kernel: Any, kinds: tuple[str, ...], made: tuple[str, bytes]) -> None:
    """Keeps machine code, where it can be written: whole or not at all."""
    folder = store()
    with suppress(OSError):
        if folder is not None:
            handle, name = tempfile.mkstemp(dir=folder)
            with os.fdopen(handle, "wb") as file:
                file.write(made[0].encode() + SPLIT + made[1])
            Path(name).replace(_place(folder, kernel, kinds))


def compiled_before() -> bool:
    """Whether machine code of these sources is there already, so that little need be waited for."""
    folder = store()
    return folder is not None and any(folder.glob(f"*{ENDING}"))


def compiled_share() -> float:
    """How much of what is loaded is compiled (0 to 1), by the machine code that is kept."""
    folder = store()
    names = {path.name.partition("-")[0] for path in folder.glob(f"*{ENDING}")} if folder is not None else set()
    return min(len(names) / max(sum(how == "called" for how in HOW.values()), 1), 1.0)
