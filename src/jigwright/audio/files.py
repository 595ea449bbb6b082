"""Sound files through libsndfile, with limits checked before anything is allocated."""

from __future__ import annotations

import os
import struct
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from jigwright.core.errors import AudioError
from jigwright.core.sound.intake import MAX_RATE_HZ, MAX_SECONDS, MIN_RATE_HZ
from jigwright.services.plain_files import check_writable

SUFFIXES = (".wav", ".flac", ".ogg", ".oga", ".aif", ".aiff", ".aifc", ".mp3")
MAX_CHANNELS = 16
MAX_BYTES = 4 * 1024**3
_BLOCK_FRAMES = 262_144


_N_HEAD = 4096
_MAGIC = (b"RIFF", b"RIFX", b"RF64", b"FORM", b"fLaC", b"OggS", b"ID3", b"riff", b".snd", b"caff")


def _looks_like_sound(head: bytes) -> bool:
    """Whether a file begins as sound files do; an MP3 without a tag, with a frame header."""
    return head.startswith(_MAGIC) or _is_mp3_frame(head.lstrip(b"\0"))


def _is_mp3_frame(head: bytes) -> bool:
    if len(head) < 4 or head[0] != 0xFF or head[1] & 0xE0 != 0xE0:
        return False
    version, layer = head[1] >> 3 & 3, head[1] >> 1 & 3
    return version != 1 and layer != 0 and head[2] >> 4 != 15 and head[2] >> 2 & 3 != 3


@contextmanager
def _quiet(head: bytes) -> Iterator[None]:
    """The MP3 decoder writes notes of its own to standard error: nobody asked for them."""
    if not (head.startswith(b"ID3") or _is_mp3_frame(head.lstrip(b"\0"))):
        yield
        return
    kept = os.dup(2)
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


class SndFiles:
    """Reading and writing through libsndfile."""

    def read(self, path: Path) -> tuple[NDArray[np.float32], int]:
        """Read a whole file.

        A file that ends early gives what there is.

        Raises
        ------
        AudioError
            ``missing``, ``too_large``, ``unreadable``, ``channels``, ``rate``, ``too_long``,
            ``empty``.
        """
        try:
            size = path.stat().st_size
        except OSError as error:
            raise AudioError("missing", f"{path.name}: {error.strerror}") from error
        if not path.is_file():
            raise AudioError("unreadable", f"{path.name} is not a file")
        if size == 0:
            raise AudioError("empty", f"{path.name} has no bytes")
        if size > MAX_BYTES:
            raise AudioError("too_large", f"{path.name}: {size / 1024**3:.1f} GiB")
        with path.open("rb") as head:
            first = head.read(_N_HEAD)
        if not _looks_like_sound(first):
            raise AudioError("unreadable", f"{path.name}: no known kind of sound file")
        try:
            with _quiet(first), soundfile.SoundFile(os.fsencode(path)) as file:
                return self._read_open(file, path)
        except soundfile.LibsndfileError as error:
            raise AudioError("unreadable", f"{path.name}: {error}") from error

    def _read_open(self, file: soundfile.SoundFile, path: Path) -> tuple[NDArray[np.float32], int]:
        rate, channels = int(file.samplerate), int(file.channels)
        if not 1 <= channels <= MAX_CHANNELS:
            raise AudioError("channels", f"{path.name}: {channels} channels (1 to {MAX_CHANNELS})")
        if not MIN_RATE_HZ <= rate <= MAX_RATE_HZ:
            raise AudioError("rate", f"{path.name}: {rate} Hz (4 kHz to 384 kHz)")
        limit = MAX_SECONDS * rate
        if 0 < file.frames < 2**60 and file.frames > limit:
            raise AudioError("too_long", f"{path.name}: {file.frames / rate / 3600:.1f} hours")
        known = file.frames if 0 < file.frames <= limit else 0
        whole = np.empty((known, channels), dtype=np.float32)
        more: list[NDArray[np.float32]] = []
        total = 0
        while True:
            try:
                block = file.read(_BLOCK_FRAMES, dtype="float32", always_2d=True)
            except soundfile.LibsndfileError:
                if not total:
                    raise
                break  # a damaged tail: keep what was decoded
            if not len(block):
                break
            if total + len(block) > limit:
                raise AudioError("too_long", f"{path.name}: more than 3 hours")
            if total + len(block) <= known:
                whole[total : total + len(block)] = block
            else:
                more.append(block)
            total += len(block)
        if not total:
            raise AudioError("empty", f"{path.name} holds no samples")
        held = total - sum(len(b) for b in more)
        return (np.concatenate([whole[:held], *more]) if more else whole[:held]), rate

    def write_wav(self, path: Path, samples: NDArray[np.float32], rate_hz: int) -> None:
        """Write a 24-bit WAV (or FLAC, by suffix), complete or not at all."""
        suffix = path.suffix.lower()
        kind = {".wav": "WAV", ".flac": "FLAC"}.get(suffix)
        if kind is None:
            raise AudioError("unreadable", f"write .wav or .flac, not {path.name}")
        check_writable(path)
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=".part-", suffix=suffix)
        os.close(handle)
        part = Path(name)
        try:
            soundfile.write(os.fsencode(part), samples, rate_hz, subtype="PCM_24", format=kind)
            with part.open("rb") as written:
                os.fsync(written.fileno())
            part.replace(path)
        except soundfile.LibsndfileError as error:  # the disk is full, or not ours to write
            raise AudioError("unwritable", f"{path.name}: {error}") from error
        finally:
            part.unlink(missing_ok=True)


def promised_seconds(path: Path) -> float | None:
    """Duration a RIFF header promises, or ``None`` for other files."""
    try:
        with path.open("rb") as file:
            head = file.read(4096)
    except OSError:
        return None
    at = head.find(b"data")
    fmt = head.find(b"fmt ")
    if head[:4] != b"RIFF" or at < 0 or fmt < 0 or at + 8 > len(head) or fmt + 20 > len(head):
        return None
    (size,) = struct.unpack_from("<I", head, at + 4)
    (per_second,) = struct.unpack_from("<I", head, fmt + 16)
    return size / per_second if per_second and size < 0xFFFFFF00 else None
