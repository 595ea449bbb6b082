"""``jigwright studio``: look after a studio folder without a window."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from jigwright.store.opening import open_studio


def run_studio(options: argparse.Namespace) -> int:
    """Run the command; returns the exit status."""
    studio = open_studio(Path(options.folder), create=False)
    try:
        match options.studio_command:
            case "check":
                problems = studio.check()
                for problem in problems:
                    print(f"jigwright: {problem}", file=sys.stderr)
                if not problems:
                    print("no damage found")
                return 1 if problems else 0
            case "list":
                jigs = {j.id: j.title for j in studio.jigs()}
                for take in studio.takes():
                    title = jigs.get(take.jig_id or "", "no jig")
                    print(f"{take.recorded_utc}  {take.duration_s:6.1f} s  {title}  {take.id}")
            case "backup":
                studio.backup(Path(options.to))
    finally:
        studio.close()
    return 0
