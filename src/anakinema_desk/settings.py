"""What the application remembers between runs: recent files, theme, window size."""

import json
import os
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

from anakinema.formats.writing import write_whole

RECENT = 8


class Settings:
    """A small JSON file in the user's configuration folder; a damaged one is started anew."""

    def __init__(self, path: Path | None = None):
        folder = os.environ.get("ANAKINEMA_CONFIG")
        default = Path(folder) if folder else user_config_path("anakinema", appauthor=False)
        self.path = path or default / "settings.json"
        try:
            loaded = json.loads(self.path.read_text(encoding="utf-8"))
        except (OSError, ValueError, RecursionError):
            loaded = {}
        self.values: dict[str, Any] = loaded if isinstance(loaded, dict) else {}

    def get(self, key: str, default: Any) -> Any:
        """The remembered value when it is of the default's kind."""
        value = self.values.get(key, default)
        return value if isinstance(value, type(default)) else default

    def put(self, key: str, value: Any) -> None:
        """Remembers a value; that it could not be written is no reason to disturb the user's work."""
        self.values[key] = value
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(self.path, json.dumps(self.values, indent=2).encode())
        except (OSError, ValueError, RecursionError):
            pass

    @property
    def recent(self) -> list[Path]:
        """Recently used files that are still there, newest first."""
        return [path for path in (Path(str(entry)) for entry in self.get("recent", [])) if there(path)]

    def used(self, path: Path) -> None:
        """Puts a file at the head of the recent ones."""
        here = path.absolute()
        entries = [here, *(other for other in self.recent if other != here)]
        self.put("recent", [str(entry) for entry in entries[:RECENT]])


def there(path: Path) -> bool:
    """Whether a file is there and may be looked at; a name that can't be is no file."""
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False
