"""What stands in tools/, which is no package, for tests."""

import importlib.util
from pathlib import Path

TOOLS = Path(__file__).parent.parent / "tools"


def declare():
    """Each file that `tools/declare.py` makes, with what it is to hold."""
    spec = importlib.util.spec_from_file_location("declare", TOOLS / "declare.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.written()
