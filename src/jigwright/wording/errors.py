"""Sentences for errors: what happened, what was kept, what to do."""

from __future__ import annotations

from jigwright.core.errors import (
    AudioError,
    FileKindError,
    JigwrightError,
    ScoreError,
    StoreError,
    WaysError,
)
from jigwright.wording.catalogue import tr
from jigwright.wording.scores import score_error
from jigwright.wording.ways import ways_error


def error_sentence(error: Exception) -> str:
    """Turn any error the program raises on purpose into a sentence."""
    if isinstance(error, AudioError):
        return _audio(error)
    if isinstance(error, StoreError):
        return _store(error)
    if isinstance(error, ScoreError):
        return score_error(error)
    if isinstance(error, WaysError):
        return ways_error(error.why)
    if isinstance(error, FileKindError):
        kinds = {
            "folder": tr("{name} is a folder; a file is meant."),
            "pipe": tr("{name} is a pipe; a file is meant."),
            "device": tr("{name} is a device; a file is meant."),
            "socket": tr("{name} is a socket; a file is meant."),
        }
        return kinds[error.file_kind].format(name=error.name)
    if isinstance(error, JigwrightError) and error.kind == "too_long":
        return tr("This took too long and was given up; everything else goes on.")
    if isinstance(error, JigwrightError) and error.kind == "worker":
        return tr(
            "The part of the program that does the slow work stopped and was started again. "
            "Nothing was lost; please try once more."
        )
    if isinstance(error, JigwrightError):
        return str(error)
    if isinstance(error, OSError):
        return tr("{what}. Nothing was changed.").format(what=error.strerror or str(error))
    return str(error)


def _audio(error: AudioError) -> str:
    texts = {
        "missing": tr("This file cannot be opened ({detail}). Check that it is still there."),
        "unreadable": tr(
            "This is not a sound file that can be read ({detail}). Use WAV, FLAC, OGG, AIFF or MP3."
        ),
        "empty": tr("There is no sound in this file ({detail}). Record or export it again."),
        "too_long": tr(
            "This recording is too long ({detail}); at most three hours can be read. Cut it first."
        ),
        "too_large": tr(
            "This file is too large ({detail}); at most 4 GiB can be read. Cut it first."
        ),
        "unwritable": tr("The sound could not be written ({detail}). Is the disk full?"),
        "rate": tr("This sample rate cannot be used ({detail}). Convert it to 44.1 or 48 kHz."),
        "channels": tr("This channel count cannot be used ({detail}). Export one or two channels."),
    }
    return texts.get(error.reason, "{detail}").format(detail=error.detail)


def _store(error: StoreError) -> str:
    texts = {
        "damaged": tr(
            "The studio's database is damaged ({detail}). It was left as it is and a copy was put "
            "beside it; your recordings are untouched. It can be mended as far as it can be read, "
            "or a backup can be opened."
        ),
        "locked": tr(
            "This studio is open in another window ({detail}). "
            "It can be looked at here, not changed."
        ),
        "read_only": tr(
            "This folder cannot be written to ({detail}). Choose another or change its rights."
        ),
        "full": tr(
            "The disk is full ({detail}). What was written before is kept. Make room and try again."
        ),
        "newer": tr(
            "This studio was made by a newer version ({detail}). Update the program to open it."
        ),
        "missing": tr("There is no studio at this place ({detail})."),
        "not_a_studio": tr(
            "This folder holds something else than a studio ({detail}). Nothing was changed."
        ),
        "exists": tr("This take is here already ({detail}). Nothing was changed."),
        "exists_folder": tr("There is something at this place already ({detail}). Choose another."),
        "no_jig": tr("This exercise is not in the studio any more ({detail})."),
        "no_take": tr("There is no such take in this studio ({detail})."),
        "io": tr("The studio could not be written ({detail}). What was saved before is safe."),
    }
    return texts.get(error.reason, "{detail}").format(detail=error.detail)
