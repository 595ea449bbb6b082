"""The error tree. Every leaf is also a builtin error and carries its data."""

from __future__ import annotations


class JigwrightError(Exception):
    """Root of all errors the program raises on purpose.

    ``kind`` is a stable identifier that the wording package turns into a sentence.
    """

    kind = "error"


class PitchNameError(JigwrightError, ValueError):
    """A text is not a pitch name."""

    kind = "pitch_name"

    def __init__(self, text: str) -> None:
        super().__init__(f"not a pitch name: {text=!r} (write for instance D4, F#4, Bb3)")
        self.text = text

    def __reduce__(self) -> tuple[type[PitchNameError], tuple[str]]:
        return type(self), (self.text,)


class TuningError(JigwrightError, ValueError):
    """A tuning, reference or scale file cannot be used."""

    kind = "tuning"


class JigError(JigwrightError, ValueError):
    """A jig or jig file cannot be used."""

    kind = "jig"


class WaysError(JigError):
    """A jig cannot be played in two ways that could be compared.

    Parameters
    ----------
    why : str
        ``length``, ``fingering``, ``lowest``, ``high``.
    """

    kind = "ways"

    def __init__(self, why: str) -> None:
        super().__init__(f"no two ways of it can be compared: {why}")
        self.why = why

    def __reduce__(self) -> tuple[type[WaysError], tuple[str]]:
        return type(self), (self.why,)


class FaultError(JigwrightError, ValueError):
    """A fault description for the simulated player cannot be used."""

    kind = "fault"


class AudioError(JigwrightError, ValueError):
    """Sound that cannot be read or analysed.

    Parameters
    ----------
    reason : str
        Stable identifier: ``unreadable``, ``empty``, ``too_long``, ``too_large``,
        ``missing``, ``rate``, ``channels``.
    detail : str
        What was found, for the log and the sentence.
    """

    kind = "audio"

    def __init__(self, reason: str, detail: str) -> None:
        super().__init__(f"{reason}: {detail}")
        self.reason = reason
        self.detail = detail

    def __reduce__(self) -> tuple[type[AudioError], tuple[str, str]]:
        return type(self), (self.reason, self.detail)


class StoreError(JigwrightError, OSError):
    """The studio folder or its database cannot be used.

    ``reason``: ``damaged``, ``locked``, ``read_only``, ``full``, ``newer``, ``missing``,
    ``not_a_studio``, ``exists``, ``io``.
    """

    kind = "store"

    def __init__(self, reason: str, detail: str) -> None:
        super().__init__(f"{reason}: {detail}")
        self.reason = reason
        self.detail = detail

    def __reduce__(self) -> tuple[type[StoreError], tuple[str, str]]:
        return type(self), (self.reason, self.detail)


class ScoreError(JigwrightError, ValueError):
    """A score file that cannot be used.

    Parameters
    ----------
    reason : str
        ``not_a_score``, ``too_large``, ``hostile``, ``timewise``, ``no_notes``, ``no_part``,
        ``damaged``, ``refused``.
    detail : str
    """

    kind = "score"

    def __init__(self, reason: str, detail: str) -> None:
        super().__init__(f"{reason}: {detail}")
        self.reason = reason
        self.detail = detail

    def __reduce__(self) -> tuple[type[ScoreError], tuple[str, str]]:
        return type(self), (self.reason, self.detail)


class FieldError(JigwrightError, ValueError):
    """A value from outside that cannot be used.

    Parameters
    ----------
    where : str
        File and field: ``manifest.json: take.recorded_utc``.
    found : str
        What stood there, shortened.
    meant : str
        What can stand there.
    """

    kind = "field"

    def __init__(self, where: str, found: str, meant: str) -> None:
        super().__init__(f"{where}: {found}; {meant} is meant")
        self.where, self.found, self.meant = where, found, meant

    def __reduce__(self) -> tuple[type[FieldError], tuple[str, str, str]]:
        return type(self), (self.where, self.found, self.meant)


class FileKindError(JigwrightError, OSError):
    """A pipe, a device or a folder where a file is meant.

    Parameters
    ----------
    name : str
    file_kind : str
        ``pipe``, ``device``, ``socket`` or ``folder``.
    """

    kind = "file_kind"

    def __init__(self, name: str, file_kind: str) -> None:
        super().__init__(f"{name} is a {file_kind}; a file is meant")
        self.name, self.file_kind = name, file_kind

    def __reduce__(self) -> tuple[type[FileKindError], tuple[str, str]]:
        return type(self), (self.name, self.file_kind)
