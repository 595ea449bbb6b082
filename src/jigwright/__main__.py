"""``python -m jigwright``."""

import sys

if __name__ == "__main__":
    try:
        from jigwright.cli import main

        sys.exit(main())
    except KeyboardInterrupt:  # while it was still being read in
        print("jigwright: interrupted; nothing was written half", file=sys.stderr)
        sys.exit(130)
