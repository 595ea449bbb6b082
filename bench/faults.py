"""Nothing is lost: what is disturbed, how often, what survived, what was lost.

Kills the window, the worker, the recorder and the ear with signal 9 while somebody plays, while a
take is judged and saved, in lessons; kills imports, backups and migrations; pulls the input and
kills the sound server; fills the disk; damages files for every reader and pages of a database.
Lost are seconds of notes played more than a second before the recording ended that are in no take.

    python bench/faults.py [--tries 25] [--files 10000] [--only kills,disk,…] [--seed 0]
"""

from __future__ import annotations

import argparse
import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import traceback
import warnings
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np

from hostile import REFUSALS, damaged, readers
from jigwright.audio.files import SndFiles
from jigwright.audio.lab import NoLabError, lab_environment, lab_server
from jigwright.core.errors import JigwrightError
from jigwright.core.follow.align import Pin
from jigwright.core.music.instruments import instrument
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.services.ledger import left_of
from jigwright.services.records import DayNote, OwnedInstrument, Player, Remark
from jigwright.store.opening import open_studio
from jigwright.store.repair import repair_studio
from jigwright.store.salvage import TABLES
from jigwright.ui.viewmodels.stand.simulated_takes import _GAP_S, _LEAD_S, BETTER, FREE
from signals import listen, perform, scale, take_record

SITTING = Path(__file__).with_name("sitting.py")
END_S = 1.0  # at the end of a killed recording so much may be lost
SPEED = 3.0
ROWS: list[tuple[str, int, int, float, str]] = []


def row(what: str, tries: int, survived: int, lost_s: float, more: str = "") -> None:
    ROWS.append((what, tries, survived, lost_s, more))
    print(f"{what:<44}{tries:>6}{survived:>10}{lost_s:>9.2f}  {more}", flush=True)


# what is played --------------------------------------------------------------------------------


def played_spans(mode: str) -> list[tuple[float, float]]:
    """Where notes sound in what the simulated player plays."""
    jig, spans, at = scale(), [], _LEAD_S
    for seed, faults in enumerate(FREE if mode == "lesson" else BETTER, start=1):
        one = play(jig, seed=seed, faults=parse_faults(faults), a4_hz=440.0)
        spans += [(at + n.onset_s, at + n.offset_s) for n in one.notes]
        at += len(one.sound.samples) / one.sound.rate_hz + _GAP_S
    return spans


def make_studio(folder: Path, n_takes: int = 1) -> Path:
    studio, jig = open_studio(folder), scale()
    studio.add_player(Player(id="p", name="Nell Harbour"))
    studio.add_instrument(
        OwnedInstrument(id="i", name="", kind="violin", strings=instrument("violin").strings)
    )
    studio.add_jig(jig, utc="2026-11-01T10:00:00Z")
    for i in range(n_takes):
        one = perform(jig, "", seed=i)
        path = folder.with_name(f"take{i}.wav")
        SndFiles().write_wav(path, one.sound.samples, one.sound.rate_hz)
        heard = listen(one)
        studio.add_take(
            take_record(f"t{i}", jig, utc=f"2026-11-{i + 2:02d}T10:00:00Z",
                        seconds=heard.duration_s), path, heard,
        )  # fmt: skip
        path.unlink()
    studio.close()
    return folder


# a sitting in another process ------------------------------------------------------------------


class Sitting:
    """The window of a player, seen from outside."""

    def __init__(self, studio: Path, cache: Path, mode: str, *, device: str = "",
                 speed: float = SPEED, env: dict[str, str] | None = None) -> None:  # fmt: skip
        words = [sys.executable, str(SITTING), "play", str(studio), str(cache), "--mode", mode]
        self.errors = tempfile.TemporaryFile()  # noqa: SIM115 - as long as the sitting
        self.process = subprocess.Popen(
            [*words, "--speed", str(speed), "--device", device], stdin=subprocess.PIPE,
            stdout=subprocess.PIPE, stderr=self.errors, text=True,
            env={**os.environ, **(env or {})},
        )  # fmt: skip
        self.now: dict[str, Any] = {}
        self.recorded: dict[str, float] = {}
        self.messages: list[str] = []
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            try:
                self.now = json.loads(line)
            except ValueError:
                continue
            if self.now["recording"]:
                self.recorded[self.now["recording"]] = self.now["seconds"]
            if not self.messages or self.messages[-1] != self.now["message"]:
                self.messages.append(self.now["message"])

    def wait(self, what: Callable[[dict[str, Any]], bool], limit_s: float = 60.0) -> bool:
        until = time.monotonic() + limit_s
        while time.monotonic() < until:
            if self.now and what(self.now):
                return True
            if self.process.poll() is not None:
                return False
            time.sleep(0.005)
        return False

    def say(self, word: str) -> None:
        assert self.process.stdin is not None
        try:
            self.process.stdin.write(word + "\n")
            self.process.stdin.flush()
        except OSError:
            pass

    def kill(self) -> None:
        """Signal 9 to the window; its children see their pipes close."""
        self.process.kill()
        self.process.wait()
        time.sleep(0.3)

    def end(self) -> bool:
        """Close as a player does; says whether it closed by itself."""
        self.say("close")
        try:
            self.process.wait(30)
        except subprocess.TimeoutExpired:
            self.process.kill()
            return False
        return True

    def tracebacks(self) -> int:
        self.errors.seek(0)
        return self.errors.read().count(b"Traceback")


def recovered(studio: Path, cache: Path) -> dict[str, Any] | None:
    """Open the studio again and keep what was left behind; ``None``: it did not open."""
    try:
        done = subprocess.run(
            [sys.executable, str(SITTING), "recover", str(studio), str(cache)],
            capture_output=True, text=True, timeout=300, check=False,
        )  # fmt: skip
        found: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
        found["tracebacks"] = done.stderr.count("Traceback")
    except (subprocess.TimeoutExpired, ValueError, IndexError):
        return None
    return found


def lost_seconds(
    sitting: Sitting, found: dict[str, Any], mode: str, *, end_s: float = END_S
) -> tuple[float, float]:
    """Seconds of notes that are in no take, and seconds that are in two."""
    lost = twice = 0.0
    for recording, seconds in sitting.recorded.items():
        spans = [(a, b) for name, a, b in found["cuts"] if name == recording]
        notes = [(a, min(b, seconds - end_s)) for a, b in played_spans(mode)]
        notes = [(a, b) for a, b in notes if b > a]
        lost += sum(b - a for a, b in left_of(notes, spans, least_s=0.05))
        total = sum(b - a for a, b in spans)
        twice += total - sum(b - a for a, b in left_of(spans, []))
    return lost, twice


def disturbed(
    what: str, tries: int, mode: str, disturb: Callable[[Sitting, random.Random], None],
    rng: random.Random, **more: Any,
) -> None:  # fmt: skip
    """Many sittings, each disturbed once, each opened again."""
    survived, lost, twice, hangs, traces = 0, 0.0, 0.0, 0, 0
    for _ in range(tries):
        with tempfile.TemporaryDirectory() as folder:
            studio, cache = make_studio(Path(folder) / "studio"), Path(folder) / "cache"
            sitting = Sitting(studio, cache, mode, **more)
            sitting.wait(lambda n: n["seconds"] > 0.5)
            disturb(sitting, rng)
            if sitting.process.poll() is None and not sitting.end():
                hangs += 1
            traces += sitting.tracebacks()
            found = recovered(studio, cache)
            if found is None:
                hangs += 1
                continue
            gone, again = lost_seconds(sitting, found, mode)
            lost, traces = lost + gone, traces + found["tracebacks"]
            twice += again if mode != "lesson" else 0.0
            survived += gone == 0.0 and not found["problems"] and not found["stays"]
            if gone or found["stays"] or found["problems"]:
                print("   ", sitting.recorded, sitting.messages[-2:], found, flush=True)
    row(what, tries, survived, lost, f"twice {twice:.1f} s, hangs {hangs}, tracebacks {traces}")


def kills(tries: int, rng: random.Random) -> None:
    def wait_playing(s: Sitting, rng: random.Random) -> None:
        at_s = rng.uniform(1.5, 24.0)
        s.wait(lambda n: n["seconds"] > at_s)

    def wait_judging(s: Sitting, rng: random.Random) -> None:
        s.wait(lambda n: n["state"] == "judging")
        time.sleep(rng.uniform(0.0, 0.6))  # cutting, writing, hearing, committing

    def the_window(s: Sitting, rng: random.Random) -> None:
        (wait_judging if rng.random() < 0.5 else wait_playing)(s, rng)
        s.kill()

    def of(part: str) -> Callable[[Sitting, random.Random], None]:
        def disturb(s: Sitting, rng: random.Random) -> None:
            (wait_judging if rng.random() < 0.5 else wait_playing)(s, rng)
            pid = s.now.get(part)
            if pid:
                os.kill(pid, signal.SIGKILL)
            if part != "recorder":
                at_s = s.now["seconds"]
                s.wait(lambda n: n["seconds"] > at_s + rng.uniform(0.5, 4.0), 30.0)
            s.say("stop")
            s.wait(lambda n: not n["listening"] and not n["busy"], 90.0)

        return disturb

    disturbed("window killed, playing or judging", tries, "jig", the_window, rng)
    disturbed("window killed in a lesson", tries, "lesson", the_window_in_lesson(), rng)
    for part in ("worker", "recorder", "ear"):
        disturbed(f"{part} killed, playing or judging", tries, "jig", of(part), rng)

    def lesson(s: Sitting, rng: random.Random) -> None:
        wait_playing(s, rng)
        os.kill(s.now["recorder"], signal.SIGKILL)
        s.wait(lambda n: not n["listening"] and not n["busy"], 90.0)

    disturbed("recorder killed in a lesson", tries, "lesson", lesson, rng)


def the_window_in_lesson() -> Callable[[Sitting, random.Random], None]:
    def disturb(s: Sitting, rng: random.Random) -> None:
        at_s = rng.uniform(2.0, 14.0)
        s.wait(lambda n: n["seconds"] > at_s)
        s.kill()

    return disturb


# commands that are killed ----------------------------------------------------------------------


def commands(tries: int, rng: random.Random) -> None:
    """Import, backup and migration killed at any moment: nothing half, nothing gone."""
    from hostile import good_bundle

    with tempfile.TemporaryDirectory() as base:
        folder = Path(base)
        full = make_studio(folder / "studio", 3)
        bundle = folder / "sent.take.zip"
        bundle.write_bytes(good_bundle(folder))

        def once(words: list[str], studio: Path) -> None:
            process = subprocess.Popen(
                [sys.executable, "-m", "jigwright", "studio", *words], stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )  # fmt: skip
            time.sleep(rng.uniform(0.05, 1.6))
            process.kill()
            process.wait()
            del studio

        for what in ("import", "backup", "migration"):
            survived = 0
            for k in range(tries):
                mine = folder / f"{what}{k}"
                shutil.copytree(full, mine)
                to = folder / f"{what}{k}-to"
                if what == "migration":
                    _age(mine)
                words = {
                    "import": ["import", str(mine), str(bundle)],
                    "backup": ["backup", str(mine), str(to)], "migration": ["list", str(mine)],
                }[what]  # fmt: skip
                once(words, mine)
                studio = open_studio(mine, create=False)
                ok = len(studio.takes()) in (3, 4) and studio.check() == []
                studio.close()
                if what == "backup" and to.exists():
                    copy = open_studio(to, create=False)
                    ok &= len(copy.takes()) == 3 and copy.check() == []
                    copy.close()
                survived += ok
                shutil.rmtree(mine)
                shutil.rmtree(to, ignore_errors=True)
            row(f"{what} killed", tries, survived, 0.0)


def _age(studio: Path) -> None:
    """Make a studio of the version before: its last step is taken back."""
    db = sqlite3.connect(studio / "studio.db")
    db.executescript("DROP TABLE cut; DROP INDEX IF EXISTS take_by_sound; PRAGMA user_version = 6;")
    db.close()


# input, server, disk ---------------------------------------------------------------------------


def sound_server(tries: int, rng: random.Random) -> None:
    """The input is pulled, the server killed and started again, while a scale sounds."""
    folder = Path(tempfile.gettempdir()) / f"jw-{os.getpid()}"
    env = lab_environment(folder)
    take = perform(scale(), "").sound
    for what in ("input pulled", "sound server killed and back"):
        survived, lost = 0, 0.0
        for _ in range(tries):
            with tempfile.TemporaryDirectory() as base:
                studio, cache = make_studio(Path(base) / "studio"), Path(base) / "cache"
                sound = Path(base) / "scale.wav"
                SndFiles().write_wav(sound, take.samples, take.rate_hz)
                try:
                    ok, gone = _in_lab(what, studio, cache, sound, folder, env, rng)
                except NoLabError as why:
                    row(what, 0, 0, 0.0, str(why))
                    return
                survived, lost = survived + ok, lost + gone
        row(what, tries, survived, lost)


def _in_lab(
    what: str, studio: Path, cache: Path, sound: Path, folder: Path, env: dict[str, str],
    rng: random.Random,
) -> tuple[bool, float]:  # fmt: skip
    whole = {**os.environ, **env}
    with lab_server(folder, whole):
        sitting = Sitting(studio, cache, "jig", device="microphone", speed=1.0, env=env)
        sitting.wait(lambda n: n["seconds"] > 0.5)
        began = sitting.now["seconds"]
        player = subprocess.Popen(["paplay", str(sound)], env=whole)
        time.sleep(rng.uniform(2.5, 7.0))
        if what == "input pulled":
            subprocess.run(["pactl", "unload-module", "module-remap-source"], env=whole, check=True)
        else:
            subprocess.run(["pkill", "-9", "-f", str(folder / "lab.pa")], check=False)
        noticed = time.monotonic()
        stopped = sitting.wait(lambda n: not n["listening"], 12.0)
        took = time.monotonic() - noticed
        player.kill()
        player.wait()
        sitting.wait(lambda n: not n["busy"], 60.0)
    if what != "input pulled":
        with lab_server(folder, whole):  # it is back: recording goes on where the player asks
            sitting.say("begin")
            back = sitting.wait(lambda n: n["listening"] and n["seconds"] > 0.3, 20.0)
            sitting.say("stop")
            sitting.wait(lambda n: not n["busy"], 60.0)
        stopped &= back
    sitting.end()
    found = recovered(studio, cache)
    if found is None:
        return False, 0.0
    recording, seconds = next(iter(sitting.recorded.items()))
    notes = [(began + 0.4, seconds - END_S)]
    spans = [(a - 0.8, b) for name, a, b in found["cuts"] if name == recording]
    gone = sum(b - a for a, b in left_of([n for n in notes if n[1] > n[0]], spans, least_s=0.3))
    if gone or not stopped or took > 6:
        print("   ", what, sitting.recorded, sitting.messages, found, stopped, took, flush=True)
    return stopped and gone == 0.0 and not found["stays"], gone


def disk(tries: int, rng: random.Random) -> None:
    """A small disk fills at a random moment; room is made; all is opened again."""
    survived, lost, hangs = 0, 0.0, 0
    for _ in range(tries):
        with tempfile.TemporaryDirectory() as base:
            small = Path(base) / "disk"
            small.mkdir()
            mounted = subprocess.run(
                ["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", str(small)],
                capture_output=True, check=False,
            )  # fmt: skip
            if mounted.returncode:
                row("disk filled", 0, 0, 0.0, "no small disk can be made here")
                return
            try:
                studio, cache = make_studio(small / "studio"), Path(base) / "cache"
                sitting = Sitting(studio, cache, "jig")
                at_s = rng.uniform(2.0, 26.0)
                sitting.wait(lambda n, at_s=at_s: n["seconds"] > at_s)
                filler = small / "filler"
                _fill(filler)
                sitting.wait(lambda n: not n["listening"], 30.0)
                sitting.wait(lambda n: not n["busy"], 60.0)
                hangs += not sitting.end()
                filler.unlink()
                found = recovered(studio, cache)
                if found is None:
                    hangs += 1
                    continue
                gone, _ = lost_seconds(sitting, found, "jig")
                lost += gone
                survived += gone == 0.0 and not found["stays"] and not found["problems"]
                if gone or found["stays"]:
                    print("   ", sitting.recorded, sitting.messages[-2:], found, flush=True)
            finally:
                subprocess.run(["umount", str(small)], check=False)
    row("disk filled while playing", tries, survived, lost, f"hangs {hangs}")


def _fill(filler: Path) -> None:
    with filler.open("wb", buffering=0) as file:
        size = 1 << 20
        while size >= 512:
            try:
                file.write(b"x" * size)
            except OSError:
                size //= 2


# files and pages -------------------------------------------------------------------------------


def files(n: int, seed: int) -> int:
    """Damaged files for every reader: a result or a refusal, within ten seconds, inside."""
    bad: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as base, warnings.catch_warnings():
        warnings.simplefilter("error")
        root = Path(base)
        known = readers(root / "good")
        (root / "work").mkdir()
        each = -(-n // len(known))
        for reader in known:
            read = refused = slow = 0
            for k in range(each):
                rng = np.random.default_rng((seed, k, len(reader.name)))
                path, to = root / "work" / f"c{reader.suffix}", root / "work" / "to"
                path.write_bytes(damaged(rng, reader.good[k % len(reader.good)]))
                began = time.monotonic()
                try:
                    reader.read(path, to)
                    read += 1
                except REFUSALS:
                    refused += 1
                except Exception as error:
                    last = traceback.extract_tb(error.__traceback__)[-1]
                    place = f"{Path(last.filename).name}:{last.lineno}"
                    bad[f"{reader.name}: {type(error).__name__}: {str(error)[:80]} {place}"] += 1
                slow += time.monotonic() - began > 10.0
                shutil.rmtree(to, ignore_errors=True)
            outside = [p.name for p in root.iterdir() if p.name not in ("good", "work")]
            raised = sum(v for name, v in bad.items() if name.startswith(reader.name + ":"))
            row(
                f"damaged {reader.name}", each, each - raised - slow, 0.0,
                f"read {read}, refused {refused}, slow {slow}, outside {len(outside)}",
            )  # fmt: skip
    for text, count in bad.most_common(20):
        print(f"    {count}: {text}")
    return sum(bad.values())


def pages(seed: int, most: int | None = None, folder: Path | None = None) -> int:
    """Every page of a database overwritten, one at a time; what comes back is counted, by table.

    Of a studio of ours with words in every table, or of a copy of ``folder``.
    """
    failed = 0
    with tempfile.TemporaryDirectory() as base:
        full = _whole_studio(Path(base) / "studio", folder)
        whole = _contents(full)
        data = (full / "studio.db").read_bytes()
        size = int.from_bytes(data[16:18], "big")
        n = len(data) // size
        rng = np.random.default_rng(seed)
        chosen = range(n) if most is None else sorted(rng.choice(n, min(most, n), replace=False))
        opened = mended = silent = 0
        back: dict[str, list[int]] = {table: [] for table in whole}
        for page in chosen:
            studio = Path(base) / "damaged"
            shutil.copytree(full, studio)
            broken = bytearray(data)
            broken[page * size : (page + 1) * size] = rng.bytes(size)
            (studio / "studio.db").write_bytes(broken)
            try:
                losses = 0
                try:
                    open_studio(studio, create=False).close()
                    opened += 1
                except JigwrightError:
                    losses = len(repair_studio(studio).losses)
                    mended += 1
                now = _contents(studio)
                silent += not losses and any(now[t] < whole[t] for t in whole)
                for table, rows in back.items():
                    rows.append(now[table])
            except Exception as error:
                failed += 1
                print("    page", page, type(error).__name__, error)
            shutil.rmtree(studio)
        sounds = sum(rows == whole["sounds"] for rows in back["sounds"])
        row("page of a database overwritten", len(chosen), sounds, 0.0,
            f"opened {opened}, mended {mended}, failed {failed}, unsaid {silent}")  # fmt: skip
        for table, rows in back.items():
            if whole[table]:
                print(
                    f"    {table:<14}{whole[table]:>7} rows; all of them back after "
                    f"{sum(r >= whole[table] for r in rows)} of {len(rows)} pages, at least "
                    f"{min(rows)}, {100 * sum(rows) / (whole[table] * len(rows)):.1f} % in the mean"
                )
    return failed


def _whole_studio(to: Path, folder: Path | None) -> Path:
    """A studio with something in every table, its log folded in."""
    if folder is not None:
        shutil.copytree(folder, to)
        open_studio(to).close()
    else:
        studio = open_studio(make_studio(to, 3))
        for i in range(200):
            studio.set_remark(
                Remark(id=f"r{i}", take_id=f"t{i % 3}", note_id=None, at_s=float(i), who="Ines",
                       words="Lean into it, and listen. " * 4, utc="2026-11-02T10:00:00Z")
            )  # fmt: skip
            studio.set_day_note(
                DayNote(player_id="p", day=f"2026-{i % 12 + 1:02d}-{i % 28 + 1:02d}",
                        word="dry", notes="Slowly, from the frog. " * 4)
            )  # fmt: skip
        studio.set_corrections("t0", [Pin(at_s=0.1 * i, i_event=i) for i in range(12)])
        studio.set_string_check(
            "i", "2026-11-02", dict.fromkeys(instrument("violin").strings, 440.0)
        )
        studio.settle()
        studio.close()
    database = sqlite3.connect(to / "studio.db")
    database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    database.execute("PRAGMA journal_mode = DELETE")
    database.close()
    return to


def _contents(folder: Path) -> dict[str, int]:
    """Rows of every table a player would miss, and sounds that are takes."""
    studio = open_studio(folder, create=False)
    sounds = sum(_is_file(studio, t) for t in (*studio.takes(), *studio.takes(binned=True)))
    counts = {
        t: int(studio._db.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0])
        for t in TABLES if t not in ("journal", "summary", "segment", "cut")
    }  # fmt: skip
    studio.close()
    return {"sounds": sounds, **counts}


def _is_file(studio: Any, take: Any) -> bool:
    return bool(studio.audio_path(take).is_file())


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--tries", type=int, default=25)
    parser.add_argument("--files", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--studio", type=Path, help="for pages: a studio to damage copies of")
    parser.add_argument("--only", default="files,pages,commands,disk,server,kills")
    options = parser.parse_args()
    rng = random.Random(options.seed)
    only = options.only.split(",")
    print(f"{'what':<44}{'tries':>6}{'survived':>10}{'lost s':>9}")
    if "files" in only:
        files(options.files, options.seed)
    if "pages" in only:
        pages(options.seed, folder=options.studio)
    if "commands" in only:
        commands(options.tries, rng)
    if "disk" in only:
        disk(options.tries, rng)
    if "server" in only:
        sound_server(max(3, options.tries // 3), rng)
    if "kills" in only:
        kills(options.tries, rng)
    return 0 if all(survived == tries for _, tries, survived, _, _ in ROWS) else 1


if __name__ == "__main__":
    sys.exit(main())
