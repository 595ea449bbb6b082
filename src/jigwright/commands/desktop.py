"""``jigwright desktop``: put the program into the desktop's menu, or take it out again."""

from __future__ import annotations

import argparse
import os
import shlex
import shutil
import subprocess
import sys
from importlib import resources
from pathlib import Path

from jigwright.commands.files import write_whole

DESKTOP_ID = "org.jigwright.Jigwright"
FILES = (
    (f"{DESKTOP_ID}.desktop", f"applications/{DESKTOP_ID}.desktop"),
    ("jigwright.svg", "icons/hicolor/scalable/apps/jigwright.svg"),
    ("jigwright-mime.xml", "mime/packages/jigwright.xml"),
    (f"{DESKTOP_ID}.metainfo.xml", f"metainfo/{DESKTOP_ID}.metainfo.xml"),
)
_FORMER = ("applications/jigwright.desktop", "metainfo/jigwright.metainfo.xml")
_REFRESH = (("update-desktop-database", "applications"), ("update-mime-database", "mime"))


def add_desktop_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Describe the command."""
    desktop = commands.add_parser("desktop", help="add the program to the desktop's menu")
    desktop.add_argument("what", choices=("install", "remove"))
    desktop.add_argument("--to", metavar="DIR", help="instead of the user's own data folder")


def run_desktop(options: argparse.Namespace) -> int:
    """Install or remove; returns the exit status."""
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    to = Path(options.to or base)
    for place in _FORMER:  # under the name it once had
        (to / place).unlink(missing_ok=True)
    for name, place in FILES:
        target = to / place
        if options.what == "remove":
            target.unlink(missing_ok=True)
            continue
        text = (resources.files("jigwright.desktop") / name).read_text(encoding="utf-8")
        target.parent.mkdir(parents=True, exist_ok=True)
        write_whole(target, text.replace("@EXEC@", _program()))
        print(target)
    for program, folder in _REFRESH:
        found = shutil.which(program)
        if found is not None and (to / folder).is_dir():
            subprocess.run([found, str(to / folder)], check=False, capture_output=True, timeout=30)
    return 0


def _program() -> str:
    """How to start the program, quoted as desktop entries want it."""
    script = Path(sys.executable).with_name("jigwright")
    words = [str(script)] if script.is_file() else [sys.executable, "-m", "jigwright"]
    return " ".join(f'"{w}"' if shlex.quote(w) != w else w for w in words)
