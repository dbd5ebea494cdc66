"""Pictures under the bench: decoded within a budget before they are laid; what can't be shown is told."""

import struct
import zlib

import pytest
from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from anakinema.document import Set
from anakinema_desk.canvas.pictures import decoded, decoded_text
from windows import settle


def png(wide, high, rows=b""):
    """A grey picture of a size, as its head says."""
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", wide, high, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


GOOD = png(3, 2, (b"\0" + b"\x80" * 3) * 2)


def test_a_good_picture_is_shown(window):
    assert decoded(GOOD)[0].width() == 3


def saved(kind):
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image = QImage(60, 40, QImage.Format.Format_RGB32)
    image.fill(0x405060)
    image.save(buffer, kind)
    return bytes(buffer.data().data())


@pytest.mark.parametrize("kind", ["PNG", "JPG", "BMP", "PPM"])
def test_a_picture_that_is_cut_short_anywhere_is_refused_and_never_filled_with_grey(window, kind):
    whole = saved(kind)
    assert decoded(whole)[1] == ""
    for cut in (0.3, 0.6, 0.9):
        found, why = decoded(whole[: int(cut * len(whole))])
        assert found is None and why


@pytest.mark.parametrize(("data", "why"), [
    (b"", "it is empty"), (png(30_000, 30_000), "30,000 × 30,000 pixels large"),
    (GOOD[:40], "its end is missing"), (b"\xff\xd8\xff", "its end is missing"),
    (b"text", "no picture that can be read"),
])  # fmt: skip
def test_what_can_not_be_shown_is_refused_before_it_is_laid(window, tmp_path, monkeypatch, data, why):
    path = tmp_path / "sketch.png"
    path.write_bytes(data)
    monkeypatch.setattr(window.asking, "file", lambda *_: path)
    window.registry.actions["lay-picture"].trigger()
    assert window.session.document.picture is None
    assert "sketch.png can't be laid" in window.banner.head.text() and why in window.banner.body.text()


@pytest.mark.parametrize("text", ["!bad!", "a", "AAAA", "é"])
def test_a_bad_letter_in_a_document_hides_nothing_else(qtbot, window, text):
    session, said = window.session, []
    session.warned.connect(lambda text, _: said.append(text))
    refused = session.apply([Set(("picture",), {"data": text, "at": [0, 0], "width": 90})], "Lay")
    settle(qtbot, window)
    window.canvas.grab()
    qtbot.wait(20)
    told = sum("can't be shown" in each for each in said)
    assert not window.canvas._undrawn and (told == 1 or refused)
    assert decoded_text(text)[0] is None
