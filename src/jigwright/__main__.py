"""``python -m jigwright``."""

import sys

from jigwright.cli import main

if __name__ == "__main__":
    sys.exit(main())
