"""Where a part lies in depth: its thickness, before and behind others."""

import re
from collections.abc import Iterable

from ..document.changes import Set, lookup
from ..document.copies import extent
from ..document.lifting import nearer
from ..document.model import Document, Part
from ..document.written import tidy
from ..errors import located
from .building import Made, Size

SPAN = re.compile(r"^\s*(?:from\s+)?(?P<one>.+?)\s*(?:\bto\b|…|\.\.\.?|–)\s*(?P<two>.+?)\s*$", re.IGNORECASE)
"""``4 to 7``, ``from 4 to 7``, ``4…7``: two depths, in any order."""


def told_span(text: str) -> tuple[str, str] | None:
    """Two depths as they are typed; None where there are not two.

    >>> told_span("from 7 to 4")
    ('7', '4')
    """
    found = SPAN.match(text)
    return (found["one"], found["two"]) if found else None


def with_depth(document: Document, part: str, one: Size, two: Size) -> Made:
    """A part between two depths (document lengths, or expressions), given in any order. Raises `DocumentError` where
    they are one."""
    values = [end if not isinstance(end, str) else document.worth(end, "length", part) for end in (one, two)]
    if abs(values[0] - values[1]) < 1e-9:
        raise located(f"parts.{part}.depth", "a part of no thickness can't be made; give two depths that differ")
    low, high = (one, two) if values[0] < values[1] else (two, one)
    written = [end if isinstance(end, str) else tidy(end) for end in (low, high)]
    return Made((Set((*document.home("parts", part), "depth"), written),), ("parts", part))


def with_thickness(document: Document, part: str, thick: Size) -> Made:
    """A part so thick, its back where it is. An expression is kept. Raises `DocumentError` for one that is not greater
    than zero."""
    value = thick if not isinstance(thick, str) else document.worth(thick, "length", part)
    if value <= 0:
        raise located(f"parts.{part}.depth", "a thickness must be greater than zero")
    low = document.parts[part].depth[0]
    given = lookup(document.tree, (*document.home("parts", part), "depth"), [tidy(low), None])[0]
    if not isinstance(thick, str):
        return with_depth(document, part, given if isinstance(given, str) else low, tidy(low + thick))
    front = thick if low == 0 and not isinstance(given, str) else f"{given} + ({thick})"
    return with_depth(document, part, given, front)


def shifted(document: Document, part: str, by: float) -> Made:
    """A part so far nearer to the viewer, with all that stands out of it (document lengths). A copy that takes its
    depths from another is lifted; of a sub-assembly the whole is."""
    changes, place = nearer(document, part, by)
    return Made(changes, place)


def before(document: Document, part: str, other: str) -> Made:
    """A part face to face in front of another."""
    return shifted(document, part, extent([document.parts[other]])[1] - extent([document.parts[part]])[0])


def behind(document: Document, part: str, other: str) -> Made:
    """A part face to face behind another."""
    return shifted(document, part, extent([document.parts[other]])[0] - extent([document.parts[part]])[1])


def neighbours(document: Document, part: str, near: Iterable[str]) -> list[Part]:
    """Of some parts those with an outline, the part itself among them, from back to front: its stack."""
    some = [document.parts[name] for name in dict.fromkeys([part, *near]) if name in document.parts]
    return sorted((one for one in some if one.slabs or one.id == part), key=lambda one: extent([one]))
