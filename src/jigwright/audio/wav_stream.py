"""A WAV file that grows while it is read: 32-bit float mono, safe to be cut off at any moment.

The header says "unknown length" until the file is closed; readers go by the file's size.
:func:`repair` writes the true length into a file whose writer was killed.
"""

from __future__ import annotations

import os
import struct
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from jigwright.services.recording import HEADER_BYTES

_SYNC_S = 0.9


def _header(rate_hz: int, n_data_bytes: int) -> bytes:
    return (
        b"RIFF" + struct.pack("<I", (36 + n_data_bytes) & 0xFFFFFFFF) + b"WAVEfmt "
        + struct.pack("<IHHIIHH", 16, 3, 1, rate_hz, rate_hz * 4, 4, 32)
        + b"data" + struct.pack("<I", n_data_bytes & 0xFFFFFFFF)
    )  # fmt: skip


class WavWriter:
    """Appends blocks; at most the last second is lost when the power goes.

    Parameters
    ----------
    path : Path
        Must not exist yet.
    rate_hz : int

    Raises
    ------
    OSError
        From any call, when the disk is full or the folder read-only; what was written stays.
    """

    def __init__(self, path: Path, rate_hz: int) -> None:
        self._file = path.open("xb", buffering=0)
        self._rate_hz = rate_hz
        self._n_bytes = 0
        self._synced = time.monotonic()
        self._file.write(_header(rate_hz, 0))

    @property
    def n_samples(self) -> int:
        """Samples written."""
        return self._n_bytes // 4

    def write(self, block: NDArray[np.float32]) -> None:
        """Append a block."""
        data = memoryview(np.ascontiguousarray(block, dtype="<f4").tobytes())
        while data:
            n = self._file.write(data)
            self._n_bytes += n
            data = data[n:]
        if time.monotonic() - self._synced > _SYNC_S:
            os.fsync(self._file.fileno())
            self._synced = time.monotonic()

    def close(self) -> None:
        """Write the true length."""
        if self._file.closed:
            return
        try:
            self._file.seek(0)
            self._file.write(_header(self._rate_hz, self._n_bytes))
            os.fsync(self._file.fileno())
        finally:
            self._file.close()


class WavTail:
    """Reads what a writer has appended since the last call.

    Parameters
    ----------
    path : Path
    from_s : float
        Where to begin.
    """

    def __init__(self, path: Path, from_s: float = 0.0) -> None:
        self._file = path.open("rb", buffering=0)
        head = self._file.read(HEADER_BYTES)
        if len(head) < HEADER_BYTES or head[:4] != b"RIFF":
            self._file.close()
            raise ValueError(f"not a growing WAV file: {path.name}")
        self.rate_hz = int(struct.unpack_from("<I", head, 24)[0])
        self._left = b""
        self._file.seek(HEADER_BYTES + 4 * round(from_s * self.rate_hz))

    def read(self, most_samples: int = 48_000) -> NDArray[np.float32]:
        """Return new samples, at most so many."""
        data = self._left + (self._file.read(4 * most_samples) or b"")
        whole = len(data) // 4 * 4
        self._left = data[whole:]
        return np.frombuffer(data[:whole], dtype="<f4").astype(np.float32)

    def close(self) -> None:
        """Close the file."""
        self._file.close()


def read_span(path: Path, start_s: float, stop_s: float) -> tuple[NDArray[np.float32], int]:
    """Samples of a stretch of a growing or finished file of ours, and its rate."""
    with path.open("rb") as file:
        head = file.read(HEADER_BYTES)
        rate_hz = int(struct.unpack_from("<I", head, 24)[0])
        first = max(0, round(start_s * rate_hz))
        count = max(0, round(stop_s * rate_hz) - first)
        file.seek(HEADER_BYTES + 4 * first)
        data = file.read(4 * count)
    return np.frombuffer(data[: len(data) // 4 * 4], dtype="<f4").astype(np.float32), rate_hz


def blocks_of(path: Path, start_s: float, stop_s: float) -> Iterator[NDArray[np.float32]]:
    """Samples of a stretch, a second at a time."""
    at = start_s
    while at < stop_s:
        samples, _ = read_span(path, at, min(at + 1.0, stop_s))
        if not len(samples):
            return
        yield np.nan_to_num(samples)
        at += 1.0


def repair(path: Path) -> float:
    """Write the true length into the header; return the seconds of sound.

    Raises
    ------
    ValueError
        If it is not a file of ours.
    """
    size = path.stat().st_size
    with path.open("r+b") as file:
        head = file.read(HEADER_BYTES)
        if len(head) < HEADER_BYTES or head[:4] != b"RIFF" or head[20:22] != b"\x03\x00":
            raise ValueError(f"not a recording: {path.name}")
        rate_hz = int(struct.unpack_from("<I", head, 24)[0])
        n_bytes = (size - HEADER_BYTES) // 4 * 4
        file.seek(0)
        file.write(_header(rate_hz, n_bytes))
    return n_bytes / 4 / rate_hz
