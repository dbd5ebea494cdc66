"""``python -m anakinema.compute_process FD OWNER``: computes what is asked on the socket that it was given."""

import sys

from .inside import main

if __name__ == "__main__":
    main(int(sys.argv[1]), int(sys.argv[2]))
