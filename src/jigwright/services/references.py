"""References by name, scale files included."""

from __future__ import annotations

from pathlib import Path

from jigwright.core.errors import FileKindError, JigwrightError, PitchNameError, TuningError
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import Reference, parse_reference, parse_scale
from jigwright.services.plain_files import check_readable

_MAX_SCALE_BYTES = 1_000_000


def load_reference(text: str) -> Reference:
    """Return a reference by name or from ``FILE.scl[:TONIC]``.

    Raises
    ------
    TuningError
        If the name is unknown or the file cannot be used.
    """
    path_text, colon, tonic_text = text.rpartition(":")
    for candidate, tonic in ((text, ""), (path_text if colon else "", tonic_text)):
        if candidate.lower().endswith(".scl"):
            return _from_file(Path(candidate), tonic)
    return parse_reference(text)


def reference_or_equal(name: str) -> Reference:
    """A reference by its name; equal where its scale file has gone since."""
    try:
        return load_reference(name)
    except JigwrightError:
        return load_reference("equal")


def _from_file(path: Path, tonic: str) -> Reference:
    try:
        if check_readable(path) > _MAX_SCALE_BYTES:
            raise TuningError(f"{path.name}: too large for a scale file")
        text = path.read_text(encoding="utf-8", errors="replace")
    except FileKindError as error:
        raise TuningError(str(error)) from error
    except (OSError, ValueError) as error:
        raise TuningError(f"{path.name}: {getattr(error, 'strerror', error)}") from error
    try:
        pitch_class = PitchClass.parse(tonic) if tonic else None
    except PitchNameError as error:
        raise TuningError(f"not a tonic: {tonic!r}") from error
    return parse_scale(text, name=path.name, tonic=pitch_class)
