"""Fails where the window makes for itself what one place makes for all: painters, for one that is left open ends the
program and `theme.painting` can't leave one open; labels and tooltips, for Qt takes for markup what looks like it, and
`theme.labels` shows every letter; boxes to choose and count in, which the wheel would change on its way.
"""

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

CHOICES = "theme/choices.py"
MAKERS = {"QPainter": "theme/painting.py", "QLabel": "theme/labels.py", "QComboBox": CHOICES, "QSpinBox": CHOICES,
          "QDoubleSpinBox": CHOICES, "QSlider": CHOICES}  # fmt: skip


def faults(path: Path) -> Iterator[str]:
    """What a module makes by itself."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.ClassDef):
            named = [base.id for base in node.bases if isinstance(base, ast.Name)]
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
            named = [node.func.id]
        else:
            named = []
        for name in named:
            if name in MAKERS and not path.as_posix().endswith(MAKERS[name]):
                yield f"{path}:{node.lineno}: a {name} is made here; take it from {MAKERS[name]}"
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "setToolTip":
            text = node.args[-1]
            through = isinstance(text, ast.Call) and isinstance(text.func, ast.Name) and text.func.id == "tip"
            if not through and not isinstance(text, ast.Constant):
                yield f"{path}:{node.lineno}: a tooltip of text that is not ours; take it through theme.labels.tip"


def main() -> int:
    found = [fault for path in sorted(Path("src/anakinema_desk").rglob("*.py")) for fault in faults(path)]
    print("\n".join(found) or "painters, labels and tooltips come from one place each")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
