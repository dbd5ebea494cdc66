"""Pictures to trace, decoded within a budget: a small file can say an enormous picture, or none at all."""

import base64
import binascii

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImageReader, QPixmap

MOST = 60_000_000
"""Pixels of a picture."""


def decoded(data: bytes) -> tuple[QPixmap | None, str]:
    """A picture of a file's bytes; or why it can't be shown."""
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    size = reader.size()
    if not data:
        return None, "it is empty"
    if size.isValid() and size.width() * size.height() > MOST:
        return None, f"it is {size.width():,} × {size.height():,} pixels large, at most {MOST:,} in all are shown"
    if _cut_short(data):
        return None, "its end is missing"
    image = reader.read()
    if image.isNull():
        return None, f"it is no picture that can be read ({reader.errorString().rstrip('.').lower()})"
    return QPixmap.fromImage(image), ""


def _cut_short(data: bytes) -> bool:
    """Whether a file's end is missing where the decoder would fill in grey without a word."""
    if data.startswith(b"\xff\xd8"):  # a JPEG ends with a mark of its own, behind its last scan
        return b"\xff\xd9" not in data[data.rfind(b"\xff\xda") :]
    if data.startswith(b"\x89PNG"):
        return b"IEND" not in data
    return data.startswith(b"BM") and len(data) < int.from_bytes(data[2:6], "little")


def decoded_text(text: str) -> tuple[QPixmap | None, str]:
    """The same of what a document holds, in base64."""
    try:
        data = base64.b64decode(text + "=" * (-len(text) % 4), validate=True)
    except (binascii.Error, ValueError):
        return None, "its data are damaged: they hold letters that are none of base64"
    return decoded(data)
