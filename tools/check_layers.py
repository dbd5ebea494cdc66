"""Fails when the core package imports the interface: `anakinema` must run and be tested without Qt.

The one door is `anakinema.cli`, which starts the desktop by name when it is asked for a window. Fails, too, where the
interface makes a painter of its own: one that is left open ends the program, and `theme.painting` can't leave one open.
"""

import ast
import sys
from pathlib import Path

FORBIDDEN = {"PySide6", "shiboken6", "anakinema_desk"}


def imported(tree: ast.AST) -> set[tuple[int, str]]:
    """The (line, top-level package) of every import statement in a module."""
    found = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found |= {(node.lineno, alias.name.split(".")[0]) for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
            found.add((node.lineno, node.module.split(".")[0]))
    return found


def main() -> int:
    faults = [
        f"{path}:{line}: the core imports {package}"
        for path in sorted(Path("src/anakinema").rglob("*.py"))
        for line, package in sorted(imported(ast.parse(path.read_text(encoding="utf-8"))))
        if package in FORBIDDEN
    ]
    faults += [
        f"{path}:{node.lineno}: a painter is made here; take it from theme.painting"
        for path in sorted(Path("src/anakinema_desk").rglob("*.py"))
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "QPainter"
        and path.name != "painting.py"
    ]
    print("\n".join(faults) or "layers hold: the core imports no interface, painters come from one place")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
