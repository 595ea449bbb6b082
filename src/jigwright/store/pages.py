"""Rows of a database file read page by page, for pages its own tree no longer leads to.

SQLite keeps a table's rows in leaf pages; when a page above them is lost the engine cannot reach
them, though they are whole. This reads such leaves by the documented file format (sqlite.org,
"Database File Format", 1.6 and 2): the header, the free list, cells, varints, records and overflow
chains. It never writes. Pages of the free list are left out: what was deleted stays deleted.
Damage is met everywhere; a page or cell that does not hold together is passed over.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path

Value = None | int | float | str | bytes
_HEADER = 100
_LEAF, _INTERIOR = 13, 5
_MOST_COLUMNS = 200
_MOST_PAYLOAD = 50_000_000
_FIXED = {1: 1, 2: 2, 3: 3, 4: 4, 5: 6, 6: 8}


class PagedFile:
    """A database file as pages.

    Parameters
    ----------
    path : Path
    """

    def __init__(self, path: Path) -> None:
        self._data = path.read_bytes()
        self.page_size = self._size_of_page()
        self.n_pages = len(self._data) // self.page_size
        self._usable = self.page_size - (self._data[20] if self._whole_header else 0)

    @property
    def _whole_header(self) -> bool:
        return len(self._data) >= _HEADER and self._data[:16] == b"SQLite format 3\x00"

    def _size_of_page(self) -> int:
        if self._whole_header:
            size = int.from_bytes(self._data[16:18], "big")
            size = 65_536 if size == 1 else size
            if 512 <= size <= 65_536 and size & (size - 1) == 0:
                return size
        return 4096  # what a studio is made with

    def page(self, number: int) -> bytes:
        """A page by its number, from 1.

        Raises
        ------
        IndexError
        """
        if not 1 <= number <= self.n_pages:
            raise IndexError(number)
        start = (number - 1) * self.page_size
        return self._data[start : start + self.page_size]

    def free_pages(self) -> frozenset[int]:
        """Pages of the free list; what they hold was deleted."""
        free: set[int] = set()
        trunk = int.from_bytes(self._data[32:36], "big") if self._whole_header else 0
        while 1 <= trunk <= self.n_pages and trunk not in free:
            free.add(trunk)
            page = self.page(trunk)
            following, n = struct.unpack(">II", page[:8])
            n = min(n, self.page_size // 4 - 2)
            free.update(struct.unpack(f">{n}I", page[8 : 8 + 4 * n]))
            trunk = following
        return frozenset(free)

    def leaves_below(self, root: int) -> frozenset[int]:
        """Leaf pages that the tree of a table still leads to."""
        found: set[int] = set()
        waiting, seen = [root], set()
        while waiting:
            number = waiting.pop()
            if number in seen or not 1 <= number <= self.n_pages:
                continue
            seen.add(number)
            page = self.page(number)
            start = _HEADER if number == 1 else 0
            if page[start] == _LEAF:
                found.add(number)
            elif page[start] == _INTERIOR:
                n = int.from_bytes(page[start + 3 : start + 5], "big")
                pointers = page[start + 12 : start + 12 + 2 * n]
                for (at,) in struct.iter_unpack(">H", pointers[: len(pointers) // 2 * 2]):
                    waiting.append(int.from_bytes(page[at : at + 4], "big"))
                waiting.append(int.from_bytes(page[start + 8 : start + 12], "big"))
        return frozenset(found)

    def rows(self, number: int) -> Iterator[tuple[int, tuple[Value, ...]]]:
        """Row number and values of every row of a leaf page that can be read."""
        page = self.page(number)
        start = _HEADER if number == 1 else 0
        if page[start] != _LEAF:
            return
        n = int.from_bytes(page[start + 3 : start + 5], "big")
        for i in range(min(n, self.page_size // 4)):
            at = int.from_bytes(page[start + 8 + 2 * i : start + 10 + 2 * i], "big")
            try:
                yield self._cell(page, at)
            except (IndexError, ValueError, struct.error, OverflowError):
                continue

    def _cell(self, page: bytes, at: int) -> tuple[int, tuple[Value, ...]]:
        size, at = _varint(page, at)
        rowid, at = _varint(page, at)
        if not 0 < size <= _MOST_PAYLOAD or rowid < 1:
            raise ValueError(size)
        return rowid, _record(self._payload(page, at, size))

    def _payload(self, page: bytes, at: int, size: int) -> bytes:
        """A record, its overflow pages put behind it."""
        most = self._usable - 35
        if size <= most:
            if at + size > len(page):
                raise ValueError(size)
            return page[at : at + size]
        least = (self._usable - 12) * 32 // 255 - 23
        here = least + (size - least) % (self._usable - 4)
        here = least if here > most else here
        parts = [page[at : at + here]]
        following = int.from_bytes(page[at + here : at + here + 4], "big")
        left, seen = size - here, set()
        while left > 0:
            if following in seen:
                raise ValueError(following)
            seen.add(following)
            over = self.page(following)
            parts.append(over[4 : 4 + min(left, self._usable - 4)])
            left -= len(parts[-1])
            following = int.from_bytes(over[:4], "big")
        return b"".join(parts)


def _record(payload: bytes) -> tuple[Value, ...]:
    size, at = _varint(payload, 0)
    if size > len(payload):
        raise ValueError(size)
    kinds = []
    while at < size:
        kind, at = _varint(payload, at)
        kinds.append(kind)
    if not 1 <= len(kinds) <= _MOST_COLUMNS:
        raise ValueError(len(kinds))
    values: list[Value] = []
    for kind in kinds:
        value, at = _value(payload, at, kind)
        values.append(value)
    if at != len(payload):
        raise ValueError(at)
    return tuple(values)


def _value(payload: bytes, at: int, kind: int) -> tuple[Value, int]:
    if kind in (0, 8, 9):
        return (None, 0, 1)[(0, 8, 9).index(kind)], at
    if kind in _FIXED:
        end = at + _FIXED[kind]
        if end > len(payload):
            raise ValueError(end)
        return int.from_bytes(payload[at:end], "big", signed=True), end
    if kind == 7:
        return float(struct.unpack(">d", payload[at : at + 8])[0]), at + 8
    if kind < 12:
        raise ValueError(kind)
    end = at + (kind - 12) // 2
    if end > len(payload):
        raise ValueError(end)
    text = payload[at:end]
    return (text.decode("utf-8") if kind % 2 else text), end


def _varint(data: bytes, at: int) -> tuple[int, int]:
    value = 0
    for i in range(8):
        byte = data[at + i]
        value = value << 7 | byte & 0x7F
        if not byte & 0x80:
            return value, at + i + 1
    value = value << 8 | data[at + 8]
    return value - (1 << 64) if value >> 63 else value, at + 9
