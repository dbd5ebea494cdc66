"""Drawings of both formats made of pieces, and pictures of the usual formats, damaged; and what comes of reading
them."""

import io
import os
import random
import struct
import time
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")  # pictures are decoded as the window does it
OUTLINES = 25.0
"""Seconds of the processor in which the outlines of a drawing are found, or refused by the budget that this has."""
PICTURE = 10.0
"""Seconds of the processor in which a picture is decoded or refused."""


def drawing(seed: int) -> tuple[str, bytes]:
    """The drawing of a number: its ending, and its bytes."""
    chance = random.Random(f"drawing {seed}")
    ending, made = chance.choice(((".svg", _svg), (".dxf", _dxf)))
    return ending, _damaged(bytearray(made(chance)), chance)


def _damaged(data: bytearray, chance: random.Random) -> bytes:
    """Cut short, with other bytes, or with pieces twice or missing; or whole."""
    for _ in range(chance.choice((0, 0, 1, 3))):
        at = chance.randrange(len(data))
        match chance.randrange(4):
            case 0:
                del data[at:]
            case 1:
                data[at] = chance.randrange(256)
            case 2:
                data[at:at] = data[at : at + chance.randrange(1, 400)]
            case _:
                del data[at : at + chance.randrange(1, 60)]
        data = data or bytearray(b" ")
    return bytes(data)


def picture(seed: int) -> bytes:
    """The picture of a number: a small one, of which the head may say that it is enormous."""
    from PySide6.QtCore import QBuffer, QIODevice
    from PySide6.QtGui import QColor, QImage

    chance = random.Random(f"picture {seed}")
    image = QImage(chance.randint(1, 40), chance.randint(1, 40), QImage.Format.Format_RGB32)
    image.fill(QColor(chance.randrange(256), 90, 120))
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    kind = chance.choice(("PNG", "JPG", "BMP", "PPM"))
    image.save(buffer, kind)
    data = bytearray(bytes(buffer.data().data()))
    if kind in ("PNG", "BMP") and chance.random() < 0.4:
        at, order = (16, ">II") if kind == "PNG" else (18, "<ii")
        size = [chance.choice((0, 1, 3000, 30_000, 2**31 - 1)) for _ in range(2)]
        data[at : at + 8] = struct.pack(order, *size)
    return _damaged(data, chance)


def _svg(chance: random.Random) -> bytes:
    def number() -> str:
        return f"{chance.choice((chance.uniform(-90, 90), 0, 1e9, 1e-9, chance.randrange(99))):.6g}"

    def element(depth: int) -> str:
        if depth < 4 and chance.random() < 0.35:
            tag = chance.choice(("g", "g", "defs", "symbol", "svg", "clipPath", "a"))
            turned = chance.choice(("", f' transform="rotate({number()}) scale({number()})"', ' style="display:none"'))
            inner = "".join(element(depth + 1) for _ in range(chance.randrange(4)))
            return f'<{tag} id="n{chance.randrange(9)}"{turned}>{inner}</{tag}>'
        return chance.choice((
            f'<rect x="{number()}" y="{number()}" width="{number()}" height="{number()}" rx="{number()}"/>',
            f'<circle cx="{number()}" cy="{number()}" r="{number()}"/>', f'<use href="#n{chance.randrange(9)}"/>',
            f"<path d=\"M{number()} {number()} A{number()} 9 0 1 0 {number()} {number()} L{number()},0 Q1 2 3 4z\"/>",
            f'<polygon points="{number()},{number()} {number()},{number()} 3,4"/>', "<text>words</text>",
            f'<line x1="{number()}mm" y1="{number()}" x2="{number()}%" y2="3"/>', "<!-- nothing -->",
        ))  # fmt: skip

    box = chance.choice(("", ' viewBox="0 0 100 50"', ' viewBox="0 0 0 0"', ' width="10mm" height="9in"'))
    return f'<svg xmlns="http://www.w3.org/2000/svg"{box}>{"".join(element(0) for _ in range(9))}</svg>'.encode()


def _dxf(chance: random.Random) -> bytes:
    import ezdxf

    document = ezdxf.new("R2010")
    document.units = chance.choice((0, 1, 2, 4, 5, 6))

    def number() -> float:
        return chance.choice((chance.uniform(-90, 90), 0.0, 1e9, 1e-9))

    def fill(space: Any, blocks: list[str]) -> None:
        for _ in range(chance.randrange(1, 7)):
            match chance.randrange(6):
                case 0:
                    space.add_line((number(), number()), (number(), number()))
                case 1:
                    space.add_circle((number(), number()), abs(number()) + 1e-9)
                case 2:
                    space.add_arc((number(), number()), abs(number()) + 1e-9, number(), number())
                case 3:
                    space.add_lwpolyline([(number(), number(), chance.uniform(-2, 2)) for _ in range(4)],
                                         format="xyb", close=True)  # fmt: skip
                case 4:
                    space.add_spline([(number(), number()) for _ in range(5)])
                case _ if blocks:
                    space.add_blockref(chance.choice(blocks), (number(), number()), dxfattribs={
                        "row_count": chance.choice((1, 3, 900)), "column_count": chance.choice((1, 2, 900)),
                        "row_spacing": 5, "column_spacing": 5, "xscale": chance.choice((1, -1, 3)),
                    })  # fmt: skip

    blocks: list[str] = []
    for k in range(chance.randrange(6)):
        fill(document.blocks.new(f"block{k}"), blocks)
        blocks.append(f"block{k}")
    fill(document.modelspace(), blocks)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


def judge_picture(data: bytes) -> str:
    """What came of a picture: ``answered``, ``refused``, or what was wrong."""
    from anakinema_desk.application import make_application
    from anakinema_desk.canvas.pictures import decoded

    make_application()
    start = time.process_time()
    found, why = decoded(data)
    if (found is None) == (not why):
        return "neither shown nor refused in words"
    if time.process_time() - start > PICTURE:
        return "slow"
    return "answered" if found is not None else "refused"


def judge_drawing(ending: str, data: bytes, folder: Path) -> str:
    """What came of a drawing: ``answered``, ``refused``, or what was wrong."""
    from anakinema.errors import DocumentError
    from anakinema.formats.drawings.bounded import read_within
    from anakinema.geometry.drawn import Chosen, outlined

    path, start = folder / f"drawing{ending}", time.process_time()
    path.write_bytes(data)
    try:
        found = read_within(path)  # by the budget that it has of its own
        outlined(found, Chosen(1.0, max(found.reach * 1e-4, 1e-9), tuple(found.layers)))
        outcome = "answered"
    except DocumentError as error:
        outcome = "refused" if str(error) else "refused without a word"
    finally:
        path.unlink()
    return outcome if time.process_time() - start < OUTLINES else "slow"
