"""Looks through a window for texts that are cut without a tooltip that has them whole, and for texts and value tags
that lie over each other."""

from itertools import combinations

from PySide6.QtCore import QPoint, QRect, QRectF, Qt
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QToolButton, QWidget

WORDS = (QLabel, QAbstractButton, QLineEdit, QComboBox)
ICON_ONLY = Qt.ToolButtonStyle.ToolButtonIconOnly
SPARE = 2
"""Pixels by which a text may miss its room: rounding of fonts."""
NEVER = ("why", "Tie by", "gain now", ".anakinema/", "parts.", "joints.", "checks.")
"""What no screen says: words of ours that nobody uses, places of the file."""


def problems(window: QWidget) -> list[str]:
    """All that is wrong with the texts that are seen."""
    seen = [one for one in window.findChildren(QWidget) if isinstance(one, WORDS) and one.isVisible()
            and not one.visibleRegion().isEmpty() and not _part_of(one)]  # fmt: skip
    found = [f"cut: {said(one)!r} in {type(one.parent()).__name__}" for one in seen if cut(one)]
    found += [f"says {word!r}: {said(one)!r}" for one in seen for word in NEVER
              if isinstance(one, (QLabel, QAbstractButton)) and said(one).strip().startswith(word)]  # fmt: skip
    boxes = [(one, box) for one in seen if not _over(one) and (box := _box(one, window)).isValid()]
    for (one, a), (two, b) in combinations(boxes, 2):
        if a.adjusted(SPARE, SPARE, -SPARE, -SPARE).intersects(b) and not _kin(one, two):
            found.append(f"over each other: {said(one)!r} and {said(two)!r}")
    return found


def tags_over_each_other(canvas) -> list[str]:
    """The value tags of the bench that lie over each other, or under what stands over the bench."""
    boxes = [QRectF(box) for box in canvas._plates]
    whole = [box for box in boxes if box.intersects(QRectF(canvas.rect()))]
    widgets = sum(isinstance(child, QWidget) and child.isVisible() for child in canvas.children())
    tags = whole[widgets:]
    shy = [box.adjusted(1, 1, -1, -1) for box in tags]
    return [f"tags over each other at {a} and {b}" for a, b in combinations(shy, 2) if a.intersects(b)]


def said(one: QWidget) -> str:
    return one.currentText() if isinstance(one, QComboBox) else one.text()


def cut(one: QWidget) -> bool:
    """Whether a text has not the room that it needs, and no tooltip tells it."""
    text = said(one)
    if isinstance(one, QToolButton) and not one.icon().isNull() and one.toolButtonStyle() == ICON_ONLY:
        return False  # its text is not shown
    if not text.strip() or text in one.toolTip() or (isinstance(one, QLabel) and "<" in text):
        return False
    metrics, room = one.fontMetrics(), one.contentsRect()
    if isinstance(one, QLabel) and one.wordWrap():
        return one.heightForWidth(one.width()) > one.height() + SPARE
    wide = max(metrics.horizontalAdvance(line) for line in text.split("\n"))
    frame = 0 if isinstance(one, QLabel) else 6
    return wide > room.width() - frame + SPARE or (isinstance(one, QLabel) and metrics.height() > room.height() + 4)


def _box(one: QWidget, window: QWidget) -> QRect:
    """Where its text is seen, in the window."""
    region = one.visibleRegion().boundingRect()
    return QRect(one.mapTo(window, QPoint(0, 0)) + region.topLeft(), region.size())


def _part_of(one: QWidget) -> bool:
    """Whether it is a piece of a box or a table, which has the text."""
    above = one.parent()
    return isinstance(above, (QComboBox, QLineEdit)) or one.objectName().startswith("qt_")


def _over(one: QWidget) -> bool:
    """Whether it is on a card that stands over the bench."""
    while one is not None:
        if one.objectName() in ("trial", "banner"):
            return True
        one = one.parent()
    return False


def _kin(one: QWidget, two: QWidget) -> bool:
    return one.isAncestorOf(two) or two.isAncestorOf(one)
