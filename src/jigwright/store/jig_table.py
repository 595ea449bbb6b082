"""Jigs: every revision for good, in the database and as a file beside it."""

from __future__ import annotations

from functools import lru_cache, partial

from jigwright.core.errors import StoreError
from jigwright.core.isolation import isolated
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.store.database import StudioDatabase
from jigwright.store.side_notes import write_jig_note


class JigTable(StudioDatabase):
    """Table ``jig``."""

    def jigs(self) -> tuple[Jig, ...]:
        """The newest revision of every jig, by title."""
        rows = self._db.execute(
            "SELECT body FROM jig AS a WHERE revision = "
            "(SELECT MAX(revision) FROM jig AS b WHERE b.id = a.id) ORDER BY title"
        )
        found = (isolated("a jig of the studio", partial(_jig, body), None) for (body,) in rows)
        return tuple(jig for jig in found if jig is not None)

    def jig(self, jig_id: str, revision: int) -> Jig:
        """One revision of a jig.

        Raises
        ------
        StoreError
            If it is not there.
        """
        row = self._db.execute(
            "SELECT body FROM jig WHERE id = ? AND revision = ?", (jig_id, revision)
        ).fetchone()
        if row is None:
            raise StoreError("no_jig", f"{jig_id} revision {revision}")
        return _jig(row[0])

    def add_jig(self, jig: Jig, *, utc: str) -> None:
        """Keep a revision of a jig for good.

        Raises
        ------
        StoreError
            If another jig already has this id and revision.
        """
        body = jig_to_json(jig)
        before = self._db.execute(
            "SELECT body FROM jig WHERE id = ? AND revision = ?", (jig.id, jig.revision)
        ).fetchone()
        if before is not None:
            if before[0] != body:
                raise StoreError("io", f"revision {jig.revision} of {jig.title!r} is already kept")
            return
        with self._step("jig") as step:
            step.put(
                "jig",
                {
                    "id": jig.id, "revision": jig.revision, "title": jig.title, "body": body,
                    "created_utc": utc,
                },
            )  # fmt: skip
        write_jig_note(self.folder, jig.id, jig.revision, body)


@lru_cache(maxsize=1024)
def _jig(body: str) -> Jig:
    """Jigs never change: one that was read once need not be read again."""
    return jig_from_json(body)
