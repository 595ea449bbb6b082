"""What is to be said of a recording besides the playing: clipped, too quiet, a tone all along."""

from __future__ import annotations

from collections.abc import Sequence
from math import log2

from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import METRONOME, STEADY_TONE, THUMPS, Speech
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.notes import pitch_name

_MAINS_HZ = (50.0, 60.0)
_MAINS_SHARE = 0.005  # the mains wander by so much at most
_LOUD_DB = -12.0


def warning_text(code: str, *, a4_hz: float) -> str:
    """A sentence for an identifier that is kept with what was heard.

    Parameters
    ----------
    code : str
        Such as ``clipped``, ``steady_tone:196.0:-12`` or ``metronome:66.0:-14:0.25``; one that is
        not known stays as it is.
    a4_hz : float
        For the names of tones.
    """
    plain = {
        "clipped": tr("The recording is clipped: move the microphone away or turn it down."),
        "very_quiet": tr("The recording is very quiet: figures are less sure."),
        "repaired_samples": tr("Some samples were not numbers and were taken as silence."),
        "unheard": tr(
            "Hearing this sound failed; it is kept as it is. A line stands in the log (F1)."
        ),
        "dead_channel": tr("One channel is dead; the other was measured."),
    }
    name, *figures = code.split(":")
    if name == STEADY_TONE and len(figures) == 2:
        return _tone_text(float(figures[0]), float(figures[1]), a4_hz)
    if name == METRONOME and len(figures) == 3:
        return tr("A metronome ticked at {bpm} a minute; it was taken out.").format(
            bpm=_tempo(float(figures[0]))
        )
    if name == THUMPS and figures:
        return thump_text([float(t) for t in figures])
    return plain.get(code, code)


def thump_text(at_s: Sequence[float]) -> str:
    """When something knocked against the floor or the stand."""
    times = [f"{int(t // 60)}:{int(t % 60):02}" for t in at_s]
    return trn(
        "Something knocked at {times}.", "Something knocked {n} times: {times}.", len(times)
    ).format(n=len(times), times=", ".join(times))


def _tempo(bpm: float) -> str:
    """To the tenth where it is no whole number."""
    return f"{bpm:.1f}".removesuffix(".0")


def talk_text(talks: Sequence[Speech]) -> str:
    """When somebody spoke, in one sentence; empty where nobody did."""
    if not talks:
        return ""
    times = ", ".join(
        tr("{start} to {end}").format(start=_clock(t.start_s), end=_clock(t.end_s)) for t in talks
    )
    return tr("Somebody speaks: {times}. Nothing of it counts as notes.").format(times=times)


def _clock(time_s: float) -> str:
    whole = round(time_s)
    return f"{whole // 60}:{whole % 60:02d}"


def _tone_text(f_hz: float, level_db: float, a4_hz: float) -> str:
    """Mains hum by its frequency, anything else by its note."""
    for mains_hz in _MAINS_HZ:
        if abs(f_hz / mains_hz - round(f_hz / mains_hz)) < _MAINS_SHARE and f_hz < 3 * mains_hz:
            return tr(
                "The mains hummed at {hz} Hz all along; it was taken out. Look for a cable or a "
                "lamp near the microphone."
            ).format(hz=round(f_hz))
    midi = 69.0 + 12.0 * log2(f_hz / a4_hz)
    pitch = Pitch.from_midi(round(midi))
    cents = round(100.0 * (midi - round(midi)))
    tone = pitch_name(pitch)
    if cents:
        tone = tr("{note} ({cents} cents)").format(note=tone, cents=f"{cents:+d}".replace("-", "−"))
    text = tr("A tone that nobody plays, {tone}, sounded all along; it was taken out.").format(
        tone=tone
    )
    if level_db > _LOUD_DB:
        text += " " + tr("It is loud beside the playing: figures are less sure.")
    return text
