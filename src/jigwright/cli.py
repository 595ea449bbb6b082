"""The command line: composition root without a window."""

from __future__ import annotations

import argparse
import io
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from jigwright import __version__
from jigwright.commands.interruptions import INTERRUPTIONS

_DONE, _FAILED, _WRONG_WORDS, _INTERRUPTED = 0, 1, 2, 130
_MOST_JOBS, _MOST_SEED = 64, 2**32 - 1


def main(argv: Sequence[str] | None = None) -> int:
    """Run the program; returns the exit status (0 done, 1 failed, 2 wrong words)."""
    _write_anywhere()
    words = list(sys.argv[1:] if argv is None else argv)
    if argv is None:
        INTERRUPTIONS.install()
    try:
        return _run(_parser().parse_args(words))
    except KeyboardInterrupt:
        return _interrupted(leave=argv is None)
    except BrokenPipeError:
        # whoever read our output has gone; Python would say so once more while leaving
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return _FAILED
    except Exception:
        if INTERRUPTIONS.seen:  # it fell into code that made another error of it
            return _interrupted(leave=argv is None)
        raise


def _interrupted(*, leave: bool) -> int:
    print("jigwright: interrupted; nothing was written half", file=sys.stderr, flush=True)
    if leave:
        # where it fell into code that was run from text, the interpreter would end by the signal
        # itself, whatever is returned here
        os._exit(_INTERRUPTED)
    return _INTERRUPTED


def _write_anywhere() -> None:
    """Text is written whatever the locale: what it cannot hold is escaped."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            ascii_only = (stream.encoding or "").lower() in ("ascii", "us-ascii", "ansi_x3.4-1968")
            encoding = "utf-8" if ascii_only else stream.encoding
            stream.reconfigure(encoding=encoding, errors="backslashreplace")


def _run(options: argparse.Namespace) -> int:
    from jigwright.core.errors import JigwrightError
    from jigwright.wording.catalogue import use_language

    use_language(options.lang or _usual_language(options))
    try:
        match options.command:
            case "analyse":
                return _analyse(options)
            case "play":
                return _play(options)
            case "jig":
                return _jig(options)
            case "studio":
                return _studio(options)
            case "desktop":
                return _desktop(options)
    except JigwrightError as error:
        return _fail(error)
    except BrokenPipeError:
        raise
    except OSError as error:
        name = f"{error.filename}: " if error.filename else ""
        print(f"jigwright: {name}{error.strerror or error}", file=sys.stderr)
        return _FAILED
    return _window(options)


def _usual_language(options: argparse.Namespace) -> str:
    """English for commands and pictures; for a window what the system speaks."""
    if options.command not in (None, "open") or options.shots:
        return "en"
    for name in ("LC_ALL", "LC_MESSAGES", "LANG"):
        if os.environ.get(name):
            return os.environ[name][:2]
    return "en"


def _whole(low: int, high: int) -> Callable[[str], int]:
    """A whole number in a range, for the words of a command."""

    def parse(text: str) -> int:
        try:
            value = int(text) if len(text) < 20 else high + 1
        except ValueError:
            value = high + 1
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(
                f"a whole number from {low} to {high} is meant, got {text[:40]!r}"
            )
        return value

    return parse


def _language(text: str) -> str:
    from jigwright.wording.catalogue import LANGUAGES

    known = [code for code, _ in LANGUAGES]
    if text not in known:
        raise argparse.ArgumentTypeError(f"one of {', '.join(known)} is meant, got {text[:40]!r}")
    return text


def _fail(error: Exception, prefix: str = "") -> int:
    from jigwright.wording.errors import error_sentence

    print(f"jigwright: {prefix}{error_sentence(error)}", file=sys.stderr)
    return _FAILED


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="jigwright", description="Listens to bowed-string practice and says what it heard."
    )
    parser.add_argument("--version", action="version", version=f"jigwright {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the window on the demo studio")
    parser.add_argument("--shots", metavar="DIR", help="write one PNG per main view and exit")
    parser.add_argument("--studio", metavar="DIR", dest="studio_dir", help="studio folder to open")
    parser.add_argument("--theme", choices=("light", "dark"), help="colours of the window")
    parser.add_argument("--lang", type=_language, help="language of sentences: en, de")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    analyse = commands.add_parser("analyse", help="measure sound files")
    analyse.add_argument("audio", nargs="+", metavar="AUDIO", help="files or folders")
    notes = analyse.add_mutually_exclusive_group()
    notes.add_argument("--jig", metavar="FILE")
    notes.add_argument("--notes", metavar='"D4 E4 F#4"')
    analyse.add_argument(
        "--instrument",
        choices=("violin", "viola", "cello", "bass"),
        help="default: the jig's, else violin",
    )
    analyse.add_argument("--strings", metavar='"G3 D4 A4 E5"')
    analyse.add_argument("--a4", type=float, default=440.0, metavar="HZ")
    analyse.add_argument(
        "--reference", help="equal, pythagorean, just:TONIC, ring, meantone, FILE.scl[:TONIC]"
    )
    analyse.add_argument("--json", metavar="OUT")
    analyse.add_argument("--csv", metavar="OUT")
    analyse.add_argument("--jobs", type=_whole(1, _MOST_JOBS), default=1, metavar="N")

    play = commands.add_parser("play", help="let the simulated player play a jig")
    play.add_argument("jig", metavar="JIG")
    play.add_argument("--out", required=True, metavar="AUDIO")
    play.add_argument("--truth", required=True, metavar="JSON")
    play.add_argument("--seed", type=_whole(0, _MOST_SEED), default=0, metavar="N")
    play.add_argument("--faults", default="", metavar="SPEC", help="short list or JSON file")
    play.add_argument("--a4", type=float, default=440.0, metavar="HZ")
    play.add_argument("--reference")

    from jigwright.commands.jig import add_jig_parser

    add_jig_parser(commands)

    from jigwright.commands.desktop import add_desktop_parser

    add_desktop_parser(commands)
    opening = commands.add_parser("open", help="open the window and bring files in")
    opening.add_argument("files", nargs="*", metavar="FILE", help="sounds, takes, scores")

    studio = commands.add_parser("studio", help="check, back up, export, import a studio")
    studio_commands = studio.add_subparsers(dest="studio_command", required=True, metavar="WHAT")
    for name, text in (
        ("check", "look for damage"),
        ("list", "list takes"),
        ("repair", "mend a damaged studio as far as it can be read"),
    ):
        sub = studio_commands.add_parser(name, help=text)
        sub.add_argument("folder", metavar="DIR")
    binned = studio_commands.add_parser("bin", help="look into the bin, bring back, or empty it")
    binned.add_argument("folder", metavar="DIR")
    what = binned.add_mutually_exclusive_group()
    what.add_argument("--restore", metavar="TAKE", help="put a take back on its shelf")
    what.add_argument("--empty", action="store_true", help="delete what is in it for good")
    backup = studio_commands.add_parser("backup", help="copy a studio safely")
    backup.add_argument("folder", metavar="DIR")
    backup.add_argument("to", metavar="TO")
    export = studio_commands.add_parser("export", help="give a take away as a bundle")
    export.add_argument("folder", metavar="DIR")
    export.add_argument("take", metavar="TAKE", help="as `studio list` names it")
    export.add_argument("--out", required=True, metavar="FILE")
    bring = studio_commands.add_parser("import", help="take a bundle in")
    bring.add_argument("folder", metavar="DIR")
    bring.add_argument("bundle", metavar="FILE")
    return parser


def _analyse(options: argparse.Namespace) -> int:
    from jigwright.commands.analyse import run_analyse

    return run_analyse(options)


def _play(options: argparse.Namespace) -> int:
    from jigwright.audio.files import SndFiles
    from jigwright.commands.files import load_jig, read_text, write_whole
    from jigwright.core.player.faults import parse_faults
    from jigwright.core.player.play import play, truth_json
    from jigwright.services.references import load_reference

    jig = load_jig(Path(options.jig))
    spec = options.faults
    if spec and not spec.lstrip().startswith(("[", "{")) and Path(spec).is_file():
        spec = read_text(Path(spec), "fault list")
    reference = load_reference(options.reference or jig.reference)
    performance = play(
        jig, seed=options.seed, faults=parse_faults(spec), a4_hz=options.a4, reference=reference
    )
    out = Path(options.out)
    SndFiles().write_wav(out, performance.sound.samples, performance.sound.rate_hz)
    write_whole(Path(options.truth), truth_json(performance, file=out.name))
    return _DONE


def _jig(options: argparse.Namespace) -> int:
    from jigwright.commands.jig import run_jig

    return run_jig(options)


def _studio(options: argparse.Namespace) -> int:
    from jigwright.commands.studio import run_studio

    return run_studio(options)


def _desktop(options: argparse.Namespace) -> int:
    from jigwright.commands.desktop import run_desktop

    return run_desktop(options)


def _window(options: argparse.Namespace) -> int:
    from jigwright.wiring import run_window

    return run_window(
        demo=options.demo,
        studio_dir=Path(options.studio_dir) if options.studio_dir else None,
        shots=Path(options.shots) if options.shots else None,
        theme=options.theme,
        files=tuple(Path(f) for f in getattr(options, "files", ())),
        language=options.lang,
    )
