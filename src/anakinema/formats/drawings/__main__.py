"""``python -m anakinema.formats.drawings FILE OWNER SECONDS``: reads a drawing within a budget; see `bounded`."""

import sys
from pathlib import Path

from .bounded import serve

if __name__ == "__main__":
    sys.exit(serve(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])))
