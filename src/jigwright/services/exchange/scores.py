"""Any score file in, a jig out; a jig out to any score file: chosen by the file's suffix."""

from __future__ import annotations

import re
from pathlib import Path

from jigwright.core.errors import JigError, ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.imported import MAX_BYTES, Imported
from jigwright.core.jig.model import Jig
from jigwright.services.plain_files import check_readable

SCORE_SUFFIXES = (".musicxml", ".mxl", ".xml", ".mid", ".midi", ".json")
WRITE_SUFFIXES = (".musicxml", ".mid", ".json")


def read_score(
    path: Path, *, jig_id: str, instrument_id: str | None = None, i_part: int | None = None
) -> Imported:
    """Read a MusicXML, MIDI or jig file.

    Raises
    ------
    ScoreError, JigError
        If it cannot be used; nothing is changed.
    OSError
        If it cannot be opened.
    """
    size = check_readable(path)
    if size > MAX_BYTES:
        raise ScoreError("too_large", f"{size / 1e6:.0f} MB")
    data = path.read_bytes()
    title = title_of(path)
    suffix = path.suffix.lower()
    if suffix == ".json":
        try:
            text = data.decode("utf-8")
        except UnicodeDecodeError:
            raise JigError(f"{path.name}: not text") from None
        return Imported(jig=jig_from_json(text), losses=(), parts=("",), i_part=0)
    if suffix in (".mid", ".midi") or data.startswith(b"MThd"):
        from jigwright.services.exchange.midi import read_midi

        return read_midi(
            data, jig_id=jig_id, title=title, instrument_id=instrument_id, i_part=i_part
        )
    from jigwright.services.exchange.musicxml_in import read_musicxml

    return read_musicxml(
        data, jig_id=jig_id, title=title, instrument_id=instrument_id, i_part=i_part
    )


def score_bytes(jig: Jig, suffix: str, *, proposed: bool = False) -> bytes:
    """Write a jig for a file of this suffix.

    Parameters
    ----------
    jig : Jig
    suffix : str
    proposed : bool
        Write proposed bows and fingers as if somebody had written them.

    Raises
    ------
    JigError
        If the suffix is not known.
    """
    match suffix.lower():
        case ".json":
            return jig_to_json(jig).encode()
        case ".musicxml" | ".xml":
            from jigwright.services.exchange.musicxml_out import write_musicxml

            return write_musicxml(jig, proposed=proposed)
        case ".mid" | ".midi":
            from jigwright.services.exchange.midi import write_midi

            return write_midi(jig)
    raise JigError(f"cannot write {suffix!r} files: one of {', '.join(WRITE_SUFFIXES)}")


def title_of(path: Path) -> str:
    """A title from a file name."""
    words = re.sub(r"[_\s]+", " ", path.stem).strip()
    return "".join(c for c in words if c.isprintable())[:200] or "score"
