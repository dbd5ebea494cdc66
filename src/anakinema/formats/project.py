"""The project file: UTF-8 JSON in and out. Key order is kept; an unchanged document gives the same bytes."""

import errno
import json
import math
import os
import re
import stat
from collections.abc import Mapping
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from typing import Any

from ..document.model import Document
from ..document.reading import read_document
from ..errors import DocumentError, Fault, located
from .writing import kept_whole, write_whole

MAX_BYTES = 32_000_000
LINE = 110
SURROGATE = re.compile("[\ud800-\udfff]")


@dataclass(frozen=True)
class Source:
    """The bytes that a tree was read from, so that an unchanged document is written as it was."""

    tree: Any
    data: bytes


def load(path: Path) -> tuple[Document, Source]:
    """The document in a file. Raises `DocumentError` for whatever is wrong with file or content."""
    data = read_bytes(path)
    try:
        return loads(data)
    except DocumentError as error:
        whole = kept_whole(path)
        if whole is None:
            raise
        text = f"may be half written: '{whole.name}' beside it was kept whole when writing over it was broken off"
        raise DocumentError([*error.faults, Fault("", text)]) from error


def read_bytes(path: Path) -> bytes:
    """The bytes of a regular file; anything else could have no end. Raises `DocumentError`."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as stream:
            kind = os.fstat(stream.fileno())
            if stat.S_ISDIR(kind.st_mode):
                raise located("", "is a folder, not a file")
            if not stat.S_ISREG(kind.st_mode):
                raise located("", "is no ordinary file; copy what it holds into one")
            if kind.st_size > MAX_BYTES:
                raise located("", f"is larger than {MAX_BYTES // 1_000_000} MB; no mechanism needs that")
            return stream.read(MAX_BYTES + 1)
    except (OSError, ValueError) as error:
        if isinstance(error, OSError) and error.errno == errno.EISDIR:
            raise located("", "is a folder, not a file") from error
        raise located("", f"can't be read: {getattr(error, 'strerror', None) or error}") from error


def loads(data: bytes) -> tuple[Document, Source]:
    """The document in the bytes of a file."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise located("", f"is not UTF-8 text: byte {error.start} can't be read") from error
    if not text.strip():
        raise located("", "is empty")
    try:
        tree = json.loads(text, object_pairs_hook=_object, parse_constant=_refuse_constant, parse_float=_finite)
    except json.JSONDecodeError as error:
        text = f"is not valid JSON: {error.msg[0].lower() + error.msg[1:]} at line {error.lineno}, column {error.colno}"
        raise located("", text) from error
    except RecursionError as error:
        raise located("", "is nested too deeply") from error
    except ValueError as error:  # whole numbers of thousands of digits
        raise located("", f"holds a number that can't be read: {error}"[:200]) from error
    _refuse_deep(tree)
    return read_document(tree), Source(tree, data)


def save(path: Path, document: Document, source: Source | None = None) -> Source:
    """Writes a document so that a crash leaves the old file or the new one, never half of one.

    Raises `OSError` when the place can't be written or is read-only; the old file is then untouched.
    """
    data = dumps(document, source)
    write_whole(path, data)
    return Source(document.tree, data)


def gone(path: Path, source: Source | None) -> bool:
    """Whether there is no file any more where one was read or written: it has been moved, deleted, or its disk is
    away."""
    return source is not None and not os.path.exists(path)


def changed_outside(path: Path, source: Source | None) -> bool:
    """Whether a file holds something else than what was read from it or last written to it; False where there is
    none."""
    if source is None or gone(path, source):
        return False
    try:
        return read_bytes(path) != source.data
    except DocumentError:
        return True


def dumps(document: Document, source: Source | None = None) -> bytes:
    """The bytes of a document: those it was read from when nothing changed since."""
    if source is not None and same(document.tree, source.tree):
        return source.data
    text = _written(document.tree, 0) + "\n"
    # Half of a pair of surrogates has no UTF-8; JSON can write it as an escape.
    return SURROGATE.sub(lambda found: f"\\u{ord(found[0]):04x}", text).encode()


def same(one: Any, two: Any) -> bool:
    """Whether two trees are equal, order of keys and kinds of numbers included. What two versions of a document share
    is the same object, so this is quick."""
    stack = [(one, two)]
    while stack:
        a, b = stack.pop()
        if a is b:
            continue
        if type(a) is not type(b):
            return False
        if isinstance(a, Mapping):
            if list(a) != list(b):
                return False
            stack += [(value, b[key]) for key, value in a.items()]
        elif isinstance(a, list):
            if len(a) != len(b):
                return False
            stack += zip(a, b, strict=True)
        elif a != b:
            return False
    return True


def _written(value: Any, indent: int) -> str:
    """JSON with small things on one line and large ones opened up, two spaces a level."""
    flat = json.dumps(value, ensure_ascii=False, allow_nan=False)
    if not isinstance(value, (Mapping, list)) or not value or (indent > 0 and len(flat) + 2 * indent <= LINE):
        return flat
    inside, outside = "  " * (indent + 1), "  " * indent
    if isinstance(value, list):
        body = [_written(entry, indent + 1) for entry in value]
        return "[\n" + ",\n".join(inside + entry for entry in body) + f"\n{outside}]"
    pairs = [f"{json.dumps(key, ensure_ascii=False)}: {_written(entry, indent + 1)}" for key, entry in value.items()]
    return "{\n" + ",\n".join(inside + pair for pair in pairs) + f"\n{outside}}}"


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise located("", f"the key '{key[:60]}' stands twice in one object; remove or rename one")
        found[key] = value
    return found


def _refuse_constant(word: str) -> float:
    raise located("", f"holds {word}, which is not a number")


def _finite(word: str) -> float:
    number = float(word)
    if math.isinf(number):
        raise located("", f"holds the number {word[:40]}, which is too large")
    return number


def _refuse_deep(tree: Any, limit: int = 40) -> None:
    level = [tree]
    for _ in range(limit):
        level = [
            child
            for entry in level
            if isinstance(entry, (dict, list))
            for child in (entry.values() if isinstance(entry, dict) else entry)
        ]
        if not level:
            return
    raise located("", "is nested too deeply")


def schema() -> dict[str, Any]:
    """The JSON Schema of the project file, version 1."""
    text = resources.files("anakinema.formats").joinpath("anakinema-1.schema.json").read_text(encoding="utf-8")
    loaded: dict[str, Any] = json.loads(text)
    return loaded


EXAMPLES = {
    "sewing-head": "Sewing head",
    "folder-drive": "Folder drive: gear pair, belt, slider-crank",
    "paper-lift": "Paper lift: flat follower on an eccentric",
    "delivery-chain": "Delivery chain: a strand to pull straight",
    "jogger-table": "Jogger table: copied legs under one table",
    "quick-return": "Cloth guide: a slotted lever with quick return",
    "transfer-arm": "Transfer arm: three drivers in time",
    "clamp": "Clamp: parallel jaws, one the mirror image of the other",
    "ratchet-feed": "Ratchet paper feed: one tooth a stroke",
    "indexing-reel": "Indexing reel: a sixth of a turn at a time",
    "signature-pusher": "Signature pusher: a cam with two dwells and a roller",
    "nip-and-trim": "Nip and trim: two cams on one shaft, in time",
    "cam-box": "Cam box: three cams on one crank",
    "planetary-reel": "Planetary reel drive: teeth that mesh",
    "nipping-press": "Nipping press: a toggle with its screws and washers",
    "rocking-lever": "Rocking lever: collars, spacers and bushes in depth",
}
"""The mechanisms that ship with the program, with what they show; the first is the demo."""


def example(name: str) -> tuple[Document, Source]:
    """One of the `EXAMPLES`."""
    return loads(resources.files("anakinema.examples").joinpath(f"{name}.anakinema").read_bytes())


def demo() -> tuple[Document, Source]:
    """The demo: the first of the examples."""
    return example(next(iter(EXAMPLES)))


__all__ = [
    "EXAMPLES", "DocumentError", "Source", "changed_outside", "demo", "dumps", "example", "load", "loads", "same",
    "save", "schema",
]
