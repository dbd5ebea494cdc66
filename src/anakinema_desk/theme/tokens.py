"""Colours and measures of the two themes. Shape, hatch and label carry meaning first; colour only helps."""

from dataclasses import dataclass
from importlib import resources

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette

FAMILY = "Go"
FONT_FILES = ("Go-Regular.ttf", "Go-Medium.ttf", "Go-Bold.ttf", "Go-Italic.ttf")


COLOURS = {
    "teal": "#4f9aa0", "ochre": "#c9973f", "violet": "#8a7fc0", "brick": "#b8694d", "moss": "#6f9c5c",
    "slate": "#6d7885",
}  # fmt: skip
"""Colours that may be given to parts; told apart by colour-blind eyes by lightness and hue."""


@dataclass(frozen=True)
class Tokens:
    """The colours of a theme. `fills` are the part fills, told apart by lightness too."""

    name: str
    paper: str
    panel: str
    raised: str
    line: str
    faint: str
    text: str
    muted: str
    accent: str
    on_accent: str
    good: str
    bad: str
    warn: str
    grid: str
    fills: tuple[str, ...]
    frame_fill: str
    hardware: str
    edge: str
    symbol: str
    trace: str


LIGHT = Tokens(
    name="light",
    paper="#f7f5ef",
    panel="#efece4",
    raised="#fcfbf8",
    line="#c9c4b6",
    faint="#e2ded3",
    text="#23262b",
    muted="#5f6268",
    accent="#0a6a72",
    on_accent="#ffffff",
    good="#2c6e49",
    bad="#b3361b",
    warn="#8a5a00",
    grid="#e9e5da",
    fills=("#b9d3d6", "#e6cfa4", "#c9c2df", "#d9b7a6", "#bcd1b0", "#d4d4cc"),
    frame_fill="#e4e0d4",
    hardware="#a9adb0",
    edge="#33373d",
    symbol="#23262b",
    trace="#0a6a72",
)
DARK = Tokens(
    name="dark",
    paper="#1c1f22",
    panel="#24282c",
    raised="#2c3136",
    line="#454c53",
    faint="#343a40",
    text="#e8e6df",
    muted="#a3a8ad",
    accent="#5cc2c8",
    on_accent="#10201f",
    good="#7cc79a",
    bad="#ff8f70",
    warn="#e8b75c",
    grid="#272b2f",
    fills=("#3f6266", "#70603c", "#575077", "#724f40", "#4c6642", "#5b5d58"),
    frame_fill="#33383c",
    hardware="#82888d",
    edge="#cfd3d4",
    symbol="#eceae4",
    trace="#5cc2c8",
)
THEMES = {"light": LIGHT, "dark": DARK}


def load_fonts() -> None:
    """Makes the shipped typeface known; its figures all have one width."""
    folder = resources.files("anakinema_desk.theme").joinpath("fonts")
    for name in FONT_FILES:
        QFontDatabase.addApplicationFontFromData(folder.joinpath(name).read_bytes())


def font(points: float = 10.0, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The shipped typeface at a size."""
    made = QFont(FAMILY)
    made.setPointSizeF(points)
    made.setWeight(weight)
    return made


def palette(tokens: Tokens) -> QPalette:
    """The colours of a theme, for all that no style sheet reaches."""
    made = QPalette()
    role = QPalette.ColorRole
    for which, colour in (
        (role.Window, tokens.panel),
        (role.WindowText, tokens.text),
        (role.Base, tokens.raised),
        (role.AlternateBase, tokens.panel),
        (role.Text, tokens.text),
        (role.Button, tokens.raised),
        (role.ButtonText, tokens.text),
        (role.Highlight, tokens.accent),
        (role.HighlightedText, tokens.on_accent),
        (role.ToolTipBase, tokens.raised),
        (role.ToolTipText, tokens.text),
        (role.PlaceholderText, tokens.muted),
        (role.Link, tokens.accent),
        (role.Mid, tokens.line),
    ):
        made.setColor(which, QColor(colour))
    for which in (role.Text, role.ButtonText, role.WindowText):
        made.setColor(QPalette.ColorGroup.Disabled, which, QColor(tokens.muted))
    return made


def stylesheet(t: Tokens) -> str:
    """The few rules that the palette can't say."""
    return f"""
    QMenuBar {{ background: {t.panel}; }}
    QMenuBar::item {{ padding: 4px 10px; background: transparent; color: {t.text}; }}
    QMenuBar::item:selected {{ background: {t.faint}; border-radius: 4px; }}
    QMenu {{ background: {t.raised}; border: 1px solid {t.line}; padding: 4px; color: {t.text}; }}
    QMenu::item {{ padding: 5px 28px 5px 24px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
    QMenu::item:disabled {{ color: {t.muted}; }}
    QMenu::separator {{ height: 1px; background: {t.faint}; margin: 4px 8px; }}
    QToolTip {{ background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; padding: 4px; }}
    QLineEdit, QComboBox, QSpinBox {{
        background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; border-radius: 4px; padding: 3px 6px;
        selection-background-color: {t.accent}; selection-color: {t.on_accent};
    }}
    QLineEdit:focus, QComboBox:focus, QSpinBox:focus {{ border: 2px solid {t.accent}; padding: 2px 5px; }}
    QLineEdit[role="name"] {{ font-size: 13pt; font-weight: 600; border-color: transparent; background: transparent;
        padding: 1px 2px; }}
    QLineEdit[role="name"]:hover {{ border-color: {t.line}; }}
    QLineEdit[role="name"]:focus {{ border: 2px solid {t.accent}; background: {t.raised}; padding: 0 1px; }}
    QLineEdit[wrong="true"] {{ border: 2px solid {t.bad}; padding: 2px 5px; }}
    QComboBox::drop-down {{ border: none; background: transparent; width: 18px; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; }}
    QTreeView {{ background: {t.panel}; border: none; outline: none; color: {t.text}; }}
    QTreeView::item {{ padding: 2px 2px; border: none; }}
    QTreeView::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
    QTreeView::item:hover:!selected {{ background: {t.faint}; }}
    QTableView {{
        background: {t.panel}; alternate-background-color: {t.paper}; border: none; outline: none; color: {t.text};
        selection-background-color: {t.faint}; selection-color: {t.text};
    }}
    QTableView::item {{ padding: 2px 10px; border: none; }}
    QTableView QLineEdit {{ padding: 0 4px; border-radius: 0; }}
    QHeaderView {{ background: {t.panel}; }}
    QHeaderView::section {{
        background: {t.panel}; color: {t.muted}; border: none; border-bottom: 1px solid {t.line}; padding: 4px 10px;
        font-size: 8.5pt; font-weight: 600;
    }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 24px; margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {t.line}; border-radius: 4px; min-width: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QToolButton, QPushButton {{
        background: transparent; color: {t.text}; border: 1px solid transparent; border-radius: 5px; padding: 4px 8px;
    }}
    QPushButton {{ border-color: {t.line}; background: {t.raised}; }}
    QToolButton[role="tool"] {{ padding: 4px 0px; }}
    QToolButton:hover, QPushButton:hover {{ background: {t.faint}; }}
    QToolButton:checked {{ background: {t.faint}; border-color: {t.line}; }}
    QToolButton:focus, QPushButton:focus {{ border-color: {t.accent}; }}
    QToolButton:disabled, QPushButton:disabled {{ color: {t.muted}; background: transparent; }}
    QPushButton:disabled {{ border-color: {t.faint}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QCheckBox {{ color: {t.text}; spacing: 6px; }}
    QLabel {{ color: {t.text}; background: transparent; }}
    QLabel[role="muted"] {{ color: {t.muted}; }}
    QLabel[role="heading"] {{ color: {t.text}; font-size: 13pt; font-weight: 600; }}
    QLabel[role="section"] {{ color: {t.muted}; font-size: 8.5pt; font-weight: 600; }}
    QLabel[role="bad"] {{ color: {t.bad}; }}
    QLabel[role="good"] {{ color: {t.good}; }}
    QLabel[role="warn"] {{ color: {t.warn}; }}
    QFrame[role="rule"] {{ background: {t.faint}; max-height: 1px; min-height: 1px; border: none; }}
    #verdict {{ background: {t.raised}; border-bottom: 1px solid {t.line}; }}
    #banner {{ background: {t.raised}; border: 1px solid {t.faint}; border-left: 4px solid {t.muted}; }}
    #banner[level="warning"] {{ border-left: 4px solid {t.warn}; }}
    #banner[level="fault"] {{ border-left: 4px solid {t.bad}; }}
    #trial {{ background: {t.raised}; border: 1px solid {t.faint}; border-left: 4px solid {t.accent}; }}
    #banner #mark {{ font-size: 13pt; font-weight: 600; min-width: 14px; }}
    #transport {{ background: {t.panel}; border-top: 1px solid {t.line}; border-bottom: 1px solid {t.faint}; }}
    #palette {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 8px; }}
    #palette QListView {{ background: {t.raised}; border: none; outline: none; color: {t.text}; }}
    #palette QListView::item {{ padding: 5px 8px; border-radius: 4px; }}
    #palette QListView::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
    """
