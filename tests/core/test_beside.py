"""What is said of a recording besides the playing."""

import pytest

from jigwright.core.sound.heard import Speech
from jigwright.wording.beside import talk_text, warning_text


@pytest.mark.parametrize(
    ("spans", "words"),
    [
        ([], ""),
        ([(11.6, 19.2)], "Somebody speaks: 0:12 to 0:19. Nothing of it counts as notes."),
        (
            [(2.0, 4.0), (59.6, 61.0), (600.0, 605.4)],
            (
                "Somebody speaks: 0:02 to 0:04, 1:00 to 1:01, 10:00 to 10:05. "
                "Nothing of it counts as notes."
            ),
        ),
    ],
)
def test_when_somebody_spoke_is_said(spans, words) -> None:
    assert talk_text([Speech(start_s=a, end_s=b) for a, b in spans]) == words


@pytest.mark.parametrize(
    ("code", "words"),
    [
        (
            "metronome:66.00:-14:0.2500",
            "A metronome ticked at 66 a minute; it was taken out.",
        ),
        ("metronome:92.46:-3:0.1", "A metronome ticked at 92.5 a minute; it was taken out."),
        ("metronome:100.02:-3:0.1", "A metronome ticked at 100 a minute; it was taken out."),
        ("metronome:66", "metronome:66"),
    ],
)
def test_a_metronome_is_said(code: str, words: str) -> None:
    assert warning_text(code, a4_hz=440.0) == words
