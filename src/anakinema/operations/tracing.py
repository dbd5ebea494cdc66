"""A picture under the bench, to trace: put there, scaled by two places whose distance is known."""

import base64

from ..document.changes import Set
from ..document.model import Document
from ..document.written import tidy
from ..errors import DocumentError, Fault
from .building import Made, Size

SIGNS = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff")
"""What PNG and JPEG files begin with."""
MOST = 4_000_000
"""Bytes of a picture."""


def lay_picture(data: bytes, at: complex, width: float) -> Made:
    """Lays the bytes of a picture with its lower left corner at a place. Raises `DocumentError` for what is no PNG or
    JPEG, or larger than 4 MB."""
    if not data.startswith(SIGNS):
        raise DocumentError([Fault("picture", "is no PNG or JPEG picture")])
    if len(data) > MOST:
        raise DocumentError([Fault("picture", f"is larger than {MOST // 1_000_000} MB; a smaller one serves to trace")])
    entry = {"data": base64.b64encode(data).decode(), "at": [tidy(at.real), tidy(at.imag)], "width": tidy(width)}
    return Made((Set(("picture",), entry),), ("picture",))


def scale_picture(document: Document, one: complex, two: complex, distance: Size, length: float) -> Made:
    """Scales the picture so that two places in the plane are `length` apart, the first staying where it is; a distance
    that is an expression is kept. Raises `DocumentError` where there is no picture or both places are one."""
    picture, now = document.picture, abs(two - one)
    if picture is None or now == 0 or length <= 0:
        raise DocumentError([Fault("picture", "two places of a picture that are apart are wanted")])
    by = length / now
    corner = one + (complex(*picture.at) - one) * by
    width: Size = f"({distance})*{picture.width / now!r}" if isinstance(distance, str) else tidy(picture.width * by)
    return Made((Set(("picture", "at"), [tidy(corner.real), tidy(corner.imag)]), Set(("picture", "width"), width)), ())
