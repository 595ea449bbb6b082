"""Any score file in, a jig out; a jig out to any score file: chosen by the file's suffix."""

from __future__ import annotations

import re
from pathlib import Path

from jigwright.core.errors import JigError, ScoreError
from jigwright.core.jig.cue import has_cue
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.imported import MAX_BYTES, Imported
from jigwright.core.jig.model import Jig
from jigwright.services.plain_files import check_readable

SCORE_SUFFIXES = (".musicxml", ".mxl", ".xml", ".mid", ".midi", ".json")
WRITE_SUFFIXES = (".musicxml", ".mid", ".json")


def read_score(
    path: Path, *, jig_id: str, instrument_id: str | None = None, i_part: int | None = None,
    cue_part: int | None = None,
) -> Imported:  # fmt: skip
    """Read a MusicXML, MIDI or jig file.

    Parameters
    ----------
    path : Path
    jig_id : str
    instrument_id : str, optional
        Guessed otherwise.
    i_part : int, optional
        The likeliest otherwise.
    cue_part : int, optional
        Part or track that is kept as accompaniment.

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
            data, jig_id=jig_id, title=title, instrument_id=instrument_id, i_part=i_part,
            cue_part=cue_part,
        )  # fmt: skip
    from jigwright.services.exchange.musicxml_in import read_musicxml

    got = read_musicxml(
        data, jig_id=jig_id, title=title, instrument_id=instrument_id, i_part=i_part
    )
    if cue_part is None or cue_part == got.i_part:
        return got
    from jigwright.services.exchange.score_cue import with_cue_part

    return with_cue_part(data, got, cue_part)


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


def left_behind(jig: Jig, suffix: str) -> tuple[str, ...]:
    """What of a jig a file of this suffix does not hold.

    Returns
    -------
    tuple of str
        ``aims``, ``cue``; for MIDI also ``bows``, ``fingers``, ``marks`` (signs of all kinds).
    """
    if suffix.lower() == ".json":
        return ()
    found = []
    if jig.aims:
        found.append("aims")
    if has_cue(jig):
        found.append("cue")
    if suffix.lower() in (".mid", ".midi"):
        events = jig.events
        if any(e.bow is not None for e in events):
            found.append("bows")
        if any(h.finger is not None or h.string is not None for e in events for h in e.heads):
            found.append("fingers")
        silent = {"cue", "tempo"}
        if any(e.marks or e.ornament or e.dynamic or e.graces or e.glide for e in events) or any(
            s.kind not in silent for s in jig.signs
        ):
            found.append("marks")
    return tuple(found)


def title_of(path: Path) -> str:
    """A title from a file name."""
    words = re.sub(r"[_\s]+", " ", path.stem).strip()
    return "".join(c for c in words if c.isprintable())[:200] or "score"
