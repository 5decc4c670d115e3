"""`python -m inner_rim.cli` is the command line."""

import sys

from inner_rim.cli import main

if __name__ == "__main__":
    sys.exit(main())
