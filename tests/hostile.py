"""Files as bad luck and bad people make them: for every reader of the program.

A case is a reader with bytes; the reader may return, or refuse with an error of ours. Mutations:
flipped, lost, doubled and swapped bytes, cut ends, other encodings, and values of JSON trees that
cannot be true. Bundles: links, outside names, bombs, wrong hashes, fields that lie.
"""

from __future__ import annotations

import io
import json
import struct
import warnings
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from jigwright.audio.files import SndFiles
from jigwright.audio.wav_stream import WavTail, read_span, repair
from jigwright.core.errors import JigwrightError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import instrument
from jigwright.core.player.faults import parse_faults
from jigwright.services.exchange.bundle import read_bundle, write_bundle
from jigwright.services.exchange.scores import read_score, score_bytes
from jigwright.services.exchange.workfile import read_work, write_work
from jigwright.services.recordings import RecordingNote, note_path, read_note, write_note
from jigwright.services.records import OwnedInstrument, Player, Remark
from jigwright.services.references import load_reference
from jigwright.store.files import digest_of
from signals import scale, take_record

LIES: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 10**9, -(10**18), 2**63, 1e308, -1e308, 1e-320, "", "x" * 5000,
    "../../etc", "/dev/zero", "\ud800", "\0", "garbage", "NaN", "1/0", "1e9", "999999999/7",
    "2026-13-45T99:99:99Z", "C99", "D#####4", [], {}, [[]], {"a": {"a": {}}}, -5.5, "\u202e",
)  # fmt: skip
RAW_LIES = ("NaN", "Infinity", "-Infinity", "9" * 5000, "1e999", "[" * 3000 + "]" * 3000)
REFUSALS = (JigwrightError,)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reader:
    """One reader: its name, a good file, and how it is read from a path in a folder."""

    name: str
    suffix: str
    good: tuple[bytes, ...]
    read: Callable[[Path, Path], object]


def _sound_bytes(folder: Path, suffix: str) -> bytes:
    path = folder / f"good{suffix}"
    t = np.arange(4800) / 48_000
    SndFiles().write_wav(path, (0.3 * np.sin(2 * np.pi * 440 * t)).astype(np.float32), 48_000)
    data = path.read_bytes()
    path.unlink()
    return data


def good_bundle(folder: Path) -> bytes:
    """A bundle that can be taken in."""
    sound = folder / "bundle.flac"
    sound.write_bytes(_sound_bytes(folder, ".flac"))
    jig, out = scale(), folder / "good.take.zip"
    take = take_record("take-sent", jig)
    take = type(take)(
        **{f: getattr(take, f) for f in take.__slots__ if f != "sha256"}, sha256=digest_of(sound)
    )
    write_bundle(
        out, take=take, player=Player(id="q", name="Oda Quay"), jig=jig, audio=sound,
        owned=OwnedInstrument(id="o", name="", kind="violin", strings=instrument("violin").strings),
        remarks=(
            Remark(
                id="r", take_id=take.id, note_id=None, at_s=1.0, who="Oda", words="softer",
                utc="2026-11-02T10:00:00Z",
            ),
        ),
    )  # fmt: skip
    data = out.read_bytes()
    out.unlink()
    sound.unlink()
    return data


def _good_work(folder: Path) -> bytes:
    out, jig = folder / "good.work.zip", scale()
    work = SetWork(
        id="w", player_id="p", jig_id=jig.id, jig_revision=1, words="slowly", due="2026-12-01",
        good_takes=3, who="Oda", set_utc="2026-11-02T10:00:00Z",
    )  # fmt: skip
    write_work(out, work, jig, "Nell")
    data = out.read_bytes()
    out.unlink()
    return data


def _good_note(folder: Path) -> bytes:
    path = folder / "n.wav"
    write_note(
        path,
        RecordingNote(
            id="n", started_utc="2026-11-03T18:20:00Z", utc_offset_min=60, player_id="p",
            player="Nell", instrument_id="i", kind="violin", strings=instrument("violin").strings,
            jig_id="s", jig_revision=1, title="t", a4_hz=440.0, reference="equal",
            tolerance_cents=10.0, input_name="", source="", keeps="takes",
        ),
    )  # fmt: skip
    data = note_path(path).read_bytes()
    note_path(path).unlink()
    return data


def _as_text(read: Callable[[str], object]) -> Callable[[Path, Path], object]:
    return lambda path, _: read(path.read_bytes().decode("utf-8", "surrogateescape"))


def _growing(path: Path, _folder: Path) -> object:
    try:
        tail = WavTail(path)
    except ValueError:
        return None
    tail.read()
    tail.close()
    read_span(path, 0.0, 1.0)
    try:
        return repair(path)
    except ValueError:
        return None


def _note_beside(path: Path, _folder: Path) -> object:
    recording = path.with_name("n.wav")
    path.replace(note_path(recording))
    return read_note(recording)


def _score(path: Path, _folder: Path) -> object:
    found = read_score(path, jig_id="fuzz")
    if len(found.jig.events) < 400:  # and out again: what was read can be written
        score_bytes(found.jig, ".musicxml")
        jig_from_json(jig_to_json(found.jig))
    return found


def readers(folder: Path) -> tuple[Reader, ...]:
    """All readers of the program with a good file each."""
    folder.mkdir(exist_ok=True)
    jigs = [
        scale(), maker("double_scale").make(Setting(instrument_id="cello")),
        maker("harmonics").make(Setting(instrument_id="violin")),
    ]  # fmt: skip
    scl = b"! a.scl\nfifths\n12\n!\n" + b"".join(
        f"{100 * k}.0\n".encode() for k in range(1, 12)
    ) + b"2/1\n"  # fmt: skip
    mxl = io.BytesIO()
    with zipfile.ZipFile(mxl, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(
            "META-INF/container.xml",
            '<container><rootfiles><rootfile full-path="s.xml"/></rootfiles></container>',
        )
        archive.writestr("s.xml", score_bytes(jigs[0], ".musicxml"))
    sounds = folder / "sounds"
    sounds.mkdir(exist_ok=True)
    return (
        Reader(
            name="jig", suffix=".json", good=tuple(jig_to_json(j).encode() for j in jigs),
            read=_score,
        ),
        Reader(
            name="line of notes", suffix=".txt",
            good=(b"(D4 E4) F#4:2 r:1 G3+B4!02 A4. | C5:3/2 B4",),
            read=_as_text(lambda text: jig_from_line(text, jig_id="l", instrument_id="violin",
                                                     title="l", tempo_bpm=60.0)),
        ),
        Reader(
            name="MusicXML", suffix=".musicxml",
            good=tuple(score_bytes(j, ".musicxml") for j in jigs), read=_score,
        ),
        Reader(name="packed MusicXML", suffix=".mxl", good=(mxl.getvalue(),), read=_score),
        Reader(
            name="MIDI", suffix=".mid", good=tuple(score_bytes(j, ".mid") for j in jigs[:2]),
            read=_score,
        ),
        Reader(
            name="scale file", suffix=".scl", good=(scl,),
            read=lambda path, _: load_reference(str(path)),
        ),
        Reader(
            name="fault list", suffix=".txt",
            good=(
                b"detune finger=2 cents=-14; vibrato rate_hz=5.5 extent_cents=40; miss notes=3",
                b'[{"fault": "detune", "cents": -14}, {"fault": "room"}]',
            ),
            read=_as_text(parse_faults),
        ),
        Reader(
            name="bundle", suffix=".take.zip", good=(good_bundle(sounds),),
            read=lambda path, to: read_bundle(path, to),
        ),
        Reader(
            name="set work", suffix=".work.zip", good=(_good_work(sounds),),
            read=lambda path, _: read_work(path),
        ),
        Reader(
            name="sound", suffix=".wav",
            good=(_sound_bytes(sounds, ".wav"), _sound_bytes(sounds, ".flac")),
            read=lambda path, _: SndFiles().read(path),
        ),
        Reader(
            name="growing recording", suffix=".wav", good=(_sound_bytes(sounds, ".wav"),),
            read=_growing,
        ),
        Reader(
            name="recording note", suffix=".note", good=(_good_note(sounds),), read=_note_beside
        ),
    )  # fmt: skip


def damaged(rng: np.random.Generator, data: bytes) -> bytes:
    """One good file gone bad."""
    if data[:1] in b"[{" and rng.random() < 0.7:
        return lied(rng, data)
    if data[:2] == b"PK" and rng.random() < 0.6:
        return repacked(rng, data)
    b = bytearray(data)
    for _ in range(int(rng.choice([1, 1, 1, 2, 5, 40]))):
        if not b:
            break
        i, n = int(rng.integers(len(b))), int(rng.integers(1, 40))
        match int(rng.integers(7)):
            case 0:
                b[i] ^= 1 << int(rng.integers(8))
            case 1:
                b[i : i + 1] = rng.bytes(1)
            case 2:
                del b[i : i + n]
            case 3:
                b[i:i] = b[i : i + n]
            case 4:
                del b[i:]
            case 5:
                b[i:i] = rng.bytes(n)
            case _:
                j = int(rng.integers(len(b)))
                b[i], b[j] = b[j], b[i]
    if rng.random() < 0.03:
        b = bytearray(bytes(b).decode("latin-1").encode("utf-16"))
    return bytes(b)


def lied(rng: np.random.Generator, data: bytes) -> bytes:
    """A JSON text with one to three values that cannot be true."""
    body = json.loads(data)
    places: list[tuple[Any, Any]] = []

    def walk(value: Any) -> None:
        keys = value if isinstance(value, dict) else range(len(value))
        for key in keys:
            places.append((value, key))
            if isinstance(value[key], (dict, list)):
                walk(value[key])

    walk(body)
    for _ in range(int(rng.integers(1, 4))):
        where, key = places[int(rng.integers(len(places)))]
        where[key] = LIES[int(rng.integers(len(LIES)))]
    text = json.dumps(body)
    if rng.random() < 0.15:
        text = text.replace(":", ": " + RAW_LIES[int(rng.integers(len(RAW_LIES)))] + ', "z":', 1)
    return text.encode("utf-8", "surrogatepass")


def repacked(rng: np.random.Generator, data: bytes) -> bytes:
    """An archive whose JSON lies, whose names lead elsewhere, or that holds what it must not."""
    out = io.BytesIO()
    with (
        warnings.catch_warnings(),
        zipfile.ZipFile(io.BytesIO(data)) as old,
        zipfile.ZipFile(out, "w") as new,
    ):
        warnings.simplefilter("ignore")  # a name that stands twice is meant
        infos = old.infolist()
        for info in infos:
            content = old.read(info)
            if info.filename.endswith(".json") and rng.random() < 0.7:
                content = lied(rng, content)
            name = info.filename
            if rng.random() < 0.08:
                names = ("../x", "/tmp/x", "a/../../x", "CON", "sound.exe", name.upper(), ".", "")
                name = names[int(rng.integers(len(names)))] or "x"
            new.writestr(name, content, zipfile.ZIP_DEFLATED)
        if rng.random() < 0.15:
            bomb = zipfile.ZipInfo(str(rng.choice(["sound.wav", "jig.json", "extra", "../y"])))
            new.writestr(bomb, b"\0" * 3_000_000, zipfile.ZIP_DEFLATED)
        if rng.random() < 0.1:
            link = zipfile.ZipInfo("sound.ogg")
            link.external_attr = 0o120777 << 16
            new.writestr(link, "/etc/passwd")
        if rng.random() < 0.05 and infos:
            new.writestr(infos[0].filename, b"twice")
    packed = bytearray(out.getvalue())
    if rng.random() < 0.2:
        packed[int(rng.integers(len(packed)))] ^= 1 << int(rng.integers(8))
    return bytes(packed)


def midi_of_forever() -> bytes:
    """Two notes, the second after as many ticks as can be written."""
    far = b"\xff\xff\xff\x7f"
    events = b"\x00\x90\x40\x40" + far + b"\x80\x40\x00" + far + b"\x90\x40\x40" + far + (
        b"\x80\x40\x00\x00\xff\x2f\x00"
    )  # fmt: skip
    track = b"MTrk" + struct.pack(">I", len(events)) + events
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 1) + track
