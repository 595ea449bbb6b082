"""An open studio folder, all its tables together.

One writer at a time (a locked file; write-ahead log); a second window reads only. Sound files are
synced before their row appears; every change a player makes is an operation with its inverse in a
journal, so undo survives a restart. A damaged database is refused and copied aside, never
overwritten.
"""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from pathlib import Path

from jigwright.core.errors import StoreError
from jigwright.store.files import digest_of, sync_tree
from jigwright.store.jig_table import JigTable
from jigwright.store.practice import PracticeTables
from jigwright.store.take_tables import TakeTables
from jigwright.store.trouble import store_errors

DATABASE = "studio.db"
_FOLDERS = ("audio", "heard", "jigs", "recording")


class Studio(TakeTables, JigTable, PracticeTables):
    """An open studio folder. Use :func:`~jigwright.store.opening.open_studio`."""

    def setting(self, name: str, default: str = "") -> str:
        """A remembered value."""
        row = self._db.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return str(row[0]) if row else default

    def set_setting(self, name: str, value: str) -> None:
        """Remember a value."""
        with self._change("settings"):
            self._db.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (name, value))

    def check(self) -> list[str]:
        """Look for damage: database integrity, missing or changed sound files."""
        problems = [str(r[0]) for r in self._db.execute("PRAGMA integrity_check") if r[0] != "ok"]
        for take in (*self.takes(), *self.takes(binned=True)):
            try:
                path = self.audio_path(take)
            except StoreError as error:
                problems.append(error.detail)
                continue
            if not path.is_file():
                problems.append(f"sound missing: {take.audio}")
            elif digest_of(path) != take.sha256:
                problems.append(f"sound changed: {take.audio}")
        return problems

    def backup(self, target: Path) -> None:
        """Copy the studio to a new folder, consistently; it appears complete or not at all.

        What an interrupted sitting left behind is copied too.

        Raises
        ------
        StoreError
            ``exists`` when something is there already; else as the disk says.
        """
        if target.exists():
            raise StoreError("exists_folder", str(target))
        with store_errors():
            target.parent.mkdir(parents=True, exist_ok=True)
            part = Path(tempfile.mkdtemp(dir=target.parent, prefix=f".{target.name[:40]}-part-"))
            try:
                copy = sqlite3.connect(part / DATABASE)
                with copy:
                    self._db.backup(copy)
                copy.close()
                for name in _FOLDERS:
                    if (self.folder / name).is_dir() and not (self.folder / name).is_symlink():
                        shutil.copytree(self.folder / name, part / name, ignore=_links)
                sync_tree(part)
                part.chmod(0o755)
                part.replace(target)
            finally:
                shutil.rmtree(part, ignore_errors=True)

    # inputs and files of elsewhere --------------------------------------------------------

    def input_delay(self, device_id: str) -> tuple[float, float] | None:
        """Delay measured of an input, and its uncertainty, in seconds."""
        row = self._db.execute(
            "SELECT seconds, uncertainty_s FROM input_delay WHERE device_id = ?", (device_id,)
        ).fetchone()
        return (float(row[0]), float(row[1])) if row else None

    def set_input_delay(self, device_id: str, seconds: float, uncertainty_s: float) -> None:
        """Keep the delay of an input."""
        with self._change("settings"):
            self._db.execute(
                "INSERT OR REPLACE INTO input_delay VALUES (?, ?, ?)",
                (device_id, seconds, uncertainty_s),
            )

    def seen_files(self) -> frozenset[str]:
        """Files of the folder of exchange that were brought in."""
        return frozenset(str(m) for (m,) in self._db.execute("SELECT mark FROM seen_file"))

    def add_seen_file(self, mark: str) -> None:
        """Remember a file of the folder of exchange."""
        with self._change("settings"):
            self._db.execute("INSERT OR IGNORE INTO seen_file VALUES (?)", (mark,))


def _links(folder: str, names: list[str]) -> list[str]:
    """Links are not copied: what they point to is not the studio's."""
    return [name for name in names if (Path(folder) / name).is_symlink()]
