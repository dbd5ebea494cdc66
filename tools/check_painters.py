"""Fails where the interface makes a painter of its own: one that is left open ends the program, and `theme.painting`
can't leave one open.
"""

import ast
import sys
from pathlib import Path


def main() -> int:
    faults = [
        f"{path}:{node.lineno}: a painter is made here; take it from theme.painting"
        for path in sorted(Path("src/anakinema_desk").rglob("*.py"))
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "QPainter"
        and path.name != "painting.py"
    ]
    print("\n".join(faults) or "painters come from one place")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
