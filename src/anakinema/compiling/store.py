"""Machine code on the disk.

The folder is named after a digest of all sources that are compiled (the packages `kernels`), of how they are, and of
the processor: any change begins a new one, and the old one goes, so that no old code runs on. Code is run, so it is
taken only from a folder that belongs to this user or to the system and into which nobody else can write; and every file
begins with a digest of the rest, for code that is cut or changed on the disk would end the process. What does not match
is as if it were not there: it is compiled anew, and replaced.
"""

import hashlib
import os
import shutil
import stat
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from platformdirs import user_cache_path

from .marks import FOLDERS, HOME, HOW

PREFIX = "machine-code-"
ENDING = ".o"
SPLIT = b"\n"


def _version(package: str) -> bytes:
    """What a package says of its version, without loading it or the whole of `importlib.metadata`."""
    spec = find_spec(package)
    if spec is None or spec.origin is None:
        raise ModuleNotFoundError(package)
    return Path(spec.origin).with_name("_version.py").read_bytes()


def digest() -> str:
    """What the machine code depends on."""
    from .load import target

    whole = hashlib.sha256(repr((_version("numba"), _version("llvmlite"), target())).encode())
    for folder in (Path(__file__).parent, *FOLDERS):
        for path in sorted(folder.glob("*.py")):
            whole.update(path.name.encode() + path.read_bytes())
    return whole.hexdigest()[:16]


def homes() -> tuple[Path, ...]:
    """Where the folder may be: beside the sources, or among the user's caches."""
    return HOME / "__pycache__", user_cache_path("anakinema", appauthor=False)


@cache
def stores() -> tuple[Path, ...]:
    """The folders from which machine code is taken; that into which it is put is the first, where there is one that can
    be written. Those of other sources are removed."""
    wanted = PREFIX + digest()
    found: list[Path] = []
    for home in homes():
        folder = home / wanted
        with suppress(OSError):
            folder.mkdir(mode=0o755, parents=True, exist_ok=True)
        if not is_trusted(folder):
            continue
        if os.access(folder, os.W_OK):
            for other in home.glob(f"{PREFIX}*"):
                if other.name != wanted:
                    shutil.rmtree(other, ignore_errors=True)
            return (folder, *found)
        found.append(folder)
    return tuple(found)


def is_trusted(folder: Path) -> bool:
    """Whether what lies in a folder was put there by this user or the system."""
    try:
        known = folder.lstat()
    except OSError:
        return False
    own = known.st_uid in (0, os.getuid())
    return stat.S_ISDIR(known.st_mode) and own and not known.st_mode & (stat.S_IWGRP | stat.S_IWOTH)


def where_to_keep() -> Path | None:
    """The folder into which machine code is put; None where none can be written, so that every start compiles anew."""
    return next((folder for folder in stores() if os.access(folder, os.W_OK)), None)


def _name(kernel: Any, kinds: tuple[str, ...]) -> str:
    short = hashlib.sha256(",".join(kinds).encode()).hexdigest()[:12]
    return f"{kernel.__module__}.{kernel.__name__}-{short}{ENDING}"


def _sum(name: str, rest: bytes) -> bytes:
    """The digest of what a file of a name holds behind it."""
    return hashlib.sha256(name.encode() + SPLIT + rest).hexdigest().encode()


def kept(kernel: Any, kinds: tuple[str, ...]) -> tuple[str, bytes] | None:
    """The kind of a kernel's result for arguments of such kinds and its machine code, where they are kept whole."""
    name = _name(kernel, kinds)
    for folder in stores():
        with suppress(OSError):
            told, split, rest = (folder / name).read_bytes().partition(SPLIT)
            if split and told == _sum(name, rest):
                kind, _, code = rest.partition(SPLIT)
                return kind.decode(), code
    return None


def keep(kernel: Any, kinds: tuple[str, ...], made: tuple[str, bytes]) -> None:
    """Keeps machine code, where it can be written: whole or not at all, and for all who can read the folder."""
    folder, name = where_to_keep(), _name(kernel, kinds)
    MADE.add(name.partition("-")[0])
    if folder is None:
        return
    rest = made[0].encode() + SPLIT + made[1]
    import tempfile  # wanted once after an installation

    with suppress(OSError):
        handle, new = tempfile.mkstemp(dir=folder)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(_sum(name, rest) + SPLIT + rest)
                file.flush()
                os.fchmod(file.fileno(), folder.stat().st_mode & 0o444 | stat.S_IWUSR)
                os.fsync(file.fileno())
            Path(new).replace(folder / name)
        except OSError:  # a full disk, say
            Path(new).unlink(missing_ok=True)


def _files() -> set[str]:
    return {path.name for folder in stores() for path in folder.glob(f"*{ENDING}")}


def compiled_before() -> bool:
    """Whether machine code of these sources is there already, so that little need be waited for."""
    return bool(MADE or _files())


def compiled_share() -> float:
    """How much of what is loaded is compiled (0 to 1), by the machine code that is kept, or was made since the
    start."""
    names = {name.partition("-")[0] for name in _files()} | MADE
    return min(len(names) / max(sum(how == "called" for how in HOW.values()), 1), 1.0)


def unkept() -> str:
    """Why every start compiles anew, in words; empty where machine code can be kept."""
    if where_to_keep() is not None:
        return ""
    places = " or ".join(f"'{home}'" for home in homes())
    return (f"No machine code can be kept, so every start compiles for a minute or two: make {places} a folder of your "
            f"own, into which nobody else can write")  # fmt: skip


def tell() -> None:
    """Tells those who listen that a kernel is about to be compiled."""
    for listener in LISTENERS:
        listener(compiled_share())


MADE: set[str] = set()
"""The kernels that were compiled since the start."""
LISTENERS: list[Callable[[float], None]] = []
"""Who wants to know how much is compiled when something is about to be."""
