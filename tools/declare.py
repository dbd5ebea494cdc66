"""Writes what the kinds declare where it is read: the JSON Schema, and the tables of the docs."""

import json
from pathlib import Path

from anakinema.formats.schema import schema, with_tables

ROOT = Path(__file__).parent.parent
SCHEMA = ROOT / "src/anakinema/formats/anakinema-1.schema.json"
PAGES = ("docs/joints.md", "docs/format.md")


def written() -> dict[Path, str]:
    """Each file that is made so, with what it is to hold."""
    pages = {ROOT / page: with_tables((ROOT / page).read_text()) for page in PAGES}
    return {SCHEMA: json.dumps(schema(), indent=1, ensure_ascii=False) + "\n", **pages}


if __name__ == "__main__":
    for path, text in written().items():
        path.write_text(text)
