"""``python -m anakinema.compute_process FD``: computes what is asked on the socket that it was given."""

import sys

from .inside import main

if __name__ == "__main__":
    main(int(sys.argv[1]))
