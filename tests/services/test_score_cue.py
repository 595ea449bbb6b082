"""Another part of a score read as accompaniment."""

from __future__ import annotations

from pathlib import Path

import mido
import pytest

from jigwright.core.errors import ScoreError
from jigwright.core.jig.cue import cue_of
from jigwright.services.exchange.score_cue import with_cue_part
from jigwright.services.exchange.scores import left_behind, read_score
from jigwright.wording.scores import saved_sentence

SOLO = (
    '<part id="P1"><measure number="1"><attributes><divisions>1</divisions></attributes>'
    '{0}</measure><measure number="2">{0}</measure></part>'
)  # fmt: skip
NOTE = (
    "<note><pitch><step>A</step><octave>4</octave></pitch><duration>4</duration>"
    "<type>whole</type></note>"
)


def note(step: str, octave: int, duration: int, more: str = "", alter: int = 0) -> str:
    changed = f"<alter>{alter}</alter>" if alter else ""
    chord = "<chord/>" if "chord" in more else ""
    tie = f'<tie type="{more.split()[-1]}"/>' if "tie" in more else ""
    return (
        f"<note>{chord}<pitch><step>{step}</step>{changed}<octave>{octave}</octave></pitch>"
        f"<duration>{duration}</duration>{tie}</note>"
    )


def score(tmp_path: Path, *measures: str, attributes: str = "<divisions>2</divisions>") -> Path:
    rows = "".join(
        f'<measure number="{k + 1}">'
        f"{'<attributes>' + attributes + '</attributes>' if not k else ''}{m}</measure>"
        for k, m in enumerate(measures)
    )
    path = tmp_path / "two.musicxml"
    path.write_text(
        '<score-partwise><part-list><score-part id="P1"><part-name>Violin</part-name></score-part>'
        '<score-part id="P2"><part-name>Piano</part-name></score-part></part-list>'
        + SOLO.format(NOTE) + f'<part id="P2">{rows}</part></score-partwise>'
    )  # fmt: skip
    return path


def cue(tmp_path: Path, *measures: str, **more) -> list[tuple[str, str, int]]:
    got = read_score(score(tmp_path, *measures, **more), jig_id="j", cue_part=1)
    return [(str(n.onset_beats), str(n.end_beats), n.midi) for n in cue_of(got.jig)]


REST = "<note><rest/><duration>4</duration></note>"


def test_notes_chords_and_rests_lie_where_they_sound(tmp_path: Path) -> None:
    first = note("C", 3, 4) + note("E", 3, 4, "chord") + REST
    assert cue(tmp_path, first, REST + note("B", 2, 4, alter=-1)) == [
        ("0", "2", 48), ("0", "2", 52), ("6", "8", 46)
    ]  # fmt: skip


def test_two_staves_come_together(tmp_path: Path) -> None:
    both = note("C", 4, 8) + "<backup><duration>8</duration></backup>" + note("C", 2, 4)
    forward = "<forward><duration>2</duration></forward>" + note("D", 2, 2)
    assert cue(tmp_path, both + forward) == [("0", "2", 36), ("0", "4", 60), ("3", "4", 38)]


def test_ties_make_one_note_over_the_bar_line(tmp_path: Path) -> None:
    first, second = note("C", 3, 8, "tie start"), note("C", 3, 4, "tie stop") + note("C", 3, 4)
    assert cue(tmp_path, first, second) == [("0", "6", 48), ("6", "8", 48)]
    alone = note("C", 3, 8, "tie stop")  # of a tie that leads from nowhere
    assert cue(tmp_path, alone) == [("0", "4", 48)]


def test_grace_notes_and_what_has_no_pitch_are_left_out(tmp_path: Path) -> None:
    grace = "<note><grace/><pitch><step>D</step><octave>4</octave></pitch></note>"
    drum = "<note><unpitched/><duration>4</duration></note>"
    odd = "<note><pitch><step>H</step><octave>4</octave></pitch><duration>2</duration></note>"
    assert cue(tmp_path, grace + drum + odd + note("C", 3, 2)) == [("3", "4", 48)]


def test_transposing_parts_sound_where_they_sound(tmp_path: Path) -> None:
    horn = "<divisions>2</divisions><transpose><chromatic>-7</chromatic></transpose>"
    assert cue(tmp_path, note("C", 4, 8), attributes=horn) == [("0", "4", 53)]
    octave = horn.replace("</chromatic>", "</chromatic><octave-change>-1</octave-change>")
    assert cue(tmp_path, note("C", 4, 8), attributes=octave) == [("0", "4", 41)]


@pytest.mark.parametrize("odd", ["x", "1/0", "", "1e999", "99999999999999"])
def test_odd_numbers_are_no_hang_and_no_crash(tmp_path: Path, odd: str) -> None:
    text = note("C", 3, 8).replace("<duration>8", f"<duration>{odd}") + note("D", 3, 2)
    assert cue(tmp_path, text) == [("0", "1", 50)]


def test_a_bar_longer_than_the_solos_ends_with_it(tmp_path: Path) -> None:
    assert cue(tmp_path, note("C", 3, 20)) == [("0", "4", 48)]
    assert cue(tmp_path, "", "", note("C", 3, 4)) == []  # beyond the last bar


def test_the_own_part_is_no_accompaniment_and_a_missing_one_is_refused(tmp_path: Path) -> None:
    path = score(tmp_path, note("C", 3, 8))
    own = read_score(path, jig_id="j", cue_part=0)
    assert cue_of(own.jig) == ()
    assert cue_of(read_score(path, jig_id="j").jig) == ()
    with pytest.raises(ScoreError):
        read_score(path, jig_id="j", cue_part=2)
    with pytest.raises(ScoreError):
        with_cue_part(path.read_bytes(), own, -1)
    other = read_score(path, jig_id="j", i_part=1, instrument_id="cello", cue_part=0)
    assert [(n.onset_beats, n.midi) for n in cue_of(other.jig)] == [(0, 69)]


def test_what_a_file_does_not_hold_is_said(tmp_path: Path) -> None:
    jig = read_score(score(tmp_path, note("C", 3, 8)), jig_id="j", cue_part=1).jig
    assert left_behind(jig, ".json") == ()
    assert left_behind(jig, ".musicxml") == ("cue",)
    assert left_behind(jig, ".mid") == ("cue", "bows")
    said = saved_sentence("a.mid", ("cue", "bows"))
    assert said == "Saved as a.mid. Not in it, only in the jig: the accompaniment, bows."
    assert saved_sentence("a.json", ()) == "Saved as a.json."


def band(tmp_path: Path, *tracks: tuple[str, int, list[tuple[int, int, int]]]) -> Path:
    """A MIDI file of tracks: name, channel, and keys with their times in ticks of 1/480 beat."""
    file = mido.MidiFile(ticks_per_beat=480)
    for name, channel, notes in tracks:
        track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
        moves = sorted(
            [(start, "note_on", key) for key, start, _ in notes]
            + [(end, "note_off", key) for key, _, end in notes]
        )
        now = 0
        for at, kind, key in moves:
            track.append(mido.Message(kind, note=key, channel=channel, time=at - now))
            now = at
        file.tracks.append(track)
    path = tmp_path / "band.mid"
    file.save(path)
    return path


TUNE = [(69, 0, 480), (71, 480, 960), (72, 960, 1920)]


def test_another_track_of_a_midi_file_sounds_as_it_was_played(tmp_path: Path) -> None:
    piano = [(48, 7, 1900), (52, 960, 1910)]
    path = band(tmp_path, ("Violin", 0, TUNE), ("Piano", 1, piano))
    got = read_score(path, jig_id="j", cue_part=1)
    assert [(n.onset_beats * 480, n.end_beats * 480, n.midi) for n in cue_of(got.jig)] == [
        (7, 1900, 48),
        (960, 1910, 52),
    ]
    assert [e.heads[0].pitch.midi for e in got.jig.events] == [69, 71, 72]


def test_drums_are_no_tones(tmp_path: Path) -> None:
    path = band(tmp_path, ("Violin", 0, TUNE), ("Drums", 9, [(36, 0, 240)]))
    assert cue_of(read_score(path, jig_id="j", cue_part=1).jig) == ()


def test_a_track_that_is_played_or_not_there(tmp_path: Path) -> None:
    path = band(tmp_path, ("Violin", 0, TUNE), ("Piano", 1, [(48, 0, 960)]))
    assert cue_of(read_score(path, jig_id="j", i_part=0, cue_part=0).jig) == ()
    with pytest.raises(ScoreError, match="part 3 of 2"):
        read_score(path, jig_id="j", cue_part=2)
    with pytest.raises(ScoreError, match="part 0 of 2"):
        read_score(path, jig_id="j", cue_part=-1)
