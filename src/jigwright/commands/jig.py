"""``jigwright jig``: make, list, show and convert exercises."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from jigwright.commands.files import load_jig, write_bytes, write_whole
from jigwright.core.errors import JigError
from jigwright.core.jig.aims import LIMITS, SHOWN_ONLY, Aim, aims_of, limit_of
from jigwright.core.jig.edit import as_written
from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.hand_check import hand_troubles
from jigwright.core.jig.line import jig_from_line, jig_to_line
from jigwright.core.jig.makers import MAKERS, Setting, SettingChoice, maker
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.instruments import LONGEST_MM, SHORTEST_MM, parse_strings
from jigwright.core.music.keys import MODES, Key, Mode
from jigwright.core.music.pitch import PitchClass
from jigwright.services.exchange.scores import left_behind, read_score, score_bytes, title_of
from jigwright.wording.aims import aim_name
from jigwright.wording.catalogue import tr
from jigwright.wording.hands import trouble_line
from jigwright.wording.makers import jig_title, maker_name
from jigwright.wording.scores import import_summary, saved_sentence


def add_jig_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Describe the command."""
    jig = commands.add_parser("jig", help="make, convert and list exercises")
    parts = jig.add_subparsers(dest="jig_command", required=True, metavar="WHAT")
    kinds = ("violin", "viola", "cello", "bass")

    scale = parts.add_parser("scale", help="make a scale")
    scale.add_argument("tonic")
    scale.add_argument("--octaves", type=int, default=1)
    scale.add_argument("--slur", type=int, default=1)

    make = parts.add_parser("make", help="make any exercise; `jig list` names them")
    make.add_argument("maker", metavar="EXERCISE")
    make.add_argument("choices", nargs="*", metavar="NAME=VALUE")
    make.add_argument("--key", default="D", metavar="TONIC")
    for sub in (scale, make):
        sub.add_argument("--mode", default="major")
        sub.add_argument("--instrument", default="violin", choices=kinds)
        sub.add_argument("--tempo", type=float, default=60.0)
        sub.add_argument("--out", required=True, metavar="FILE")

    line = parts.add_parser("line", help='make a passage from a line such as "(D4 E4) F#4:2"')
    line.add_argument("text", metavar="LINE")
    line.add_argument("--instrument", default="violin", choices=kinds)
    line.add_argument("--tempo", type=float, default=60.0)
    line.add_argument("--out", required=True, metavar="FILE")

    convert = parts.add_parser("convert", help="from and to .json, .musicxml, .mxl, .mid")
    convert.add_argument("score", metavar="FILE")
    convert.add_argument("--instrument", choices=kinds)
    convert.add_argument("--part", type=int, metavar="N", help="part of the score, from 1")
    convert.add_argument("--cue", type=int, metavar="N", help="another part, kept as accompaniment")
    convert.add_argument(
        "--proposed", action="store_true", help="write proposed bows and fingers as written"
    )
    convert.add_argument("--out", required=True, metavar="FILE")

    hand = parts.add_parser("hand", help="say what of an exercise no hand can play, and why")
    hand.add_argument("jig", metavar="FILE")
    hand.add_argument("--strings", metavar="NAMES", help='such as "G3 D4 A4 E5", low to high')
    hand.add_argument("--string-length", type=float, metavar="MM", help="nut to bridge")

    parts.add_parser("list", help="name the exercises that can be made")
    show = parts.add_parser("show", help="say what a jig or score file holds")
    show.add_argument("jig", metavar="FILE")
    aimed = parts.add_parser("aims", help="say what a jig is for, with its limits")
    aimed.add_argument("jig", metavar="FILE")


def run_jig(options: argparse.Namespace) -> int:
    """Run the command; errors are raised."""
    match options.jig_command:
        case "list":
            for one in MAKERS:
                fields = " ".join(
                    f"{f.id}={'|'.join(f.options) if isinstance(f, SettingChoice) else f.default}"
                    for f in one.fields
                )
                print(f"{one.id}  {maker_name(one.id)}  {fields}".rstrip())
        case "show":
            jig = load_jig(Path(options.jig))
            print(f"{jig.title} · {jig.instrument_id} · {jig.key} · {jig.tempo_bpm:g}")
            print(jig_to_line(jig))
        case "aims":
            jig = load_jig(Path(options.jig))
            for aim in aims_of(jig):
                print(_aim_line(aim, jig))
        case "convert":
            _convert(options)
        case "line":
            out = Path(options.out)
            jig = jig_from_line(
                options.text, jig_id=title_of(out), instrument_id=options.instrument,
                title=title_of(out), tempo_bpm=options.tempo,
            )  # fmt: skip
            _write(out, jig)
        case "scale":
            key = _key(options.tonic, options.mode)
            jig = make_scale(
                jig_id=f"{options.tonic}-{options.mode}-{options.instrument}",
                instrument_id=options.instrument, key=key, octaves=options.octaves,
                slur=options.slur, tempo_bpm=options.tempo,
            )  # fmt: skip
            _write(Path(options.out), jig)
        case "hand":
            return _hand(options)
        case _:
            _write(Path(options.out), _made(options))
    return 0


def _hand(options: argparse.Namespace) -> int:
    """Print the places no hand can play; 1 where there are any."""
    jig = load_jig(Path(options.jig))
    strings = parse_strings(options.strings) if options.strings else None
    length_mm = options.string_length
    if length_mm is not None and not SHORTEST_MM <= length_mm <= LONGEST_MM:
        raise JigError(f"strings are {SHORTEST_MM:g} to {LONGEST_MM:g} mm long: {length_mm:g}")
    found = hand_troubles(jig, strings, string_length_mm=length_mm)
    for trouble in found:
        print(trouble_line(trouble, jig))
    if not found:
        print(tr("A hand can play all of it."))
    return 1 if found else 0


def _aim_line(aim: Aim, jig: Jig) -> str:
    start, limit = LIMITS[aim.kind], limit_of(aim, jig)
    parts = [aim.kind, aim_name(aim.kind)]
    if limit is not None and aim.kind not in SHOWN_ONLY:
        sense = "at most" if start.sense == "most" else "at least"
        parts.append(f"{sense} {limit:g} {start.unit}".strip())
    if aim.way:
        parts.append(aim.way)
    if aim.places:
        parts.append("events " + " ".join(aim.places))
    return "  ".join(parts)


def _made(options: argparse.Namespace) -> Jig:
    one = maker(options.maker)
    known = {f.id: f for f in one.fields}
    values: dict[str, str | int] = {}
    for word in options.choices:
        name, equals, value = word.partition("=")
        if not equals or name not in known:
            raise JigError(f"{word!r}: write NAME=VALUE with one of {', '.join(known)}")
        try:
            values[name] = value if isinstance(known[name], SettingChoice) else int(value)
        except ValueError:
            raise JigError(f"{word!r}: a whole number is meant") from None
    setting = Setting(
        instrument_id=options.instrument, key=_key(options.key, options.mode),
        tempo_bpm=options.tempo, values=values, jig_id=f"{one.id}-{options.instrument}",
    )  # fmt: skip
    titled = Setting(
        instrument_id=setting.instrument_id, key=setting.key, tempo_bpm=setting.tempo_bpm,
        values=values, jig_id=setting.jig_id, title=jig_title(one, setting),
    )  # fmt: skip
    return one.make(titled)


def _key(tonic: str, mode: str) -> Key:
    if mode not in MODES:
        raise JigError(f"unknown mode {mode!r}: one of {', '.join(MODES)}")
    known: dict[str, Mode] = {m: m for m in MODES}
    return Key(PitchClass.parse(tonic), known[mode])


def _convert(options: argparse.Namespace) -> None:
    path, out = Path(options.score), Path(options.out)
    got = read_score(
        path, jig_id=title_of(path), instrument_id=options.instrument,
        i_part=None if options.part is None else options.part - 1,
        cue_part=None if options.cue is None else options.cue - 1,
    )  # fmt: skip
    _write(out, as_written(got.jig) if options.proposed else got.jig)
    print(import_summary(got), file=sys.stderr)
    left = left_behind(got.jig, out.suffix or ".json")
    if left:
        print(saved_sentence(out.name, left), file=sys.stderr)


def _write(out: Path, jig: Jig) -> None:
    if out.suffix.lower() in ("", ".json"):
        write_whole(out, jig_to_json(jig))
    else:
        write_bytes(out, score_bytes(jig, out.suffix))
