"""Fails when the core package imports the interface: `anakinema` must run and be tested without Qt.

The one door is `anakinema.cli`, which starts the desktop by name when it is asked for a window.
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
    print("\n".join(faults) or "layers hold: the core imports no interface")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
