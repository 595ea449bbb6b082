"""German sentences: one form of address, one word for one thing, as the glossary has it."""

from __future__ import annotations

import re
from importlib.resources import files

import pytest

from jigwright.wording.catalogue import LANGUAGES

PO = files("jigwright.wording") / "catalogues" / "de" / "LC_MESSAGES" / "jigwright.po"
TEXT = PO.read_text(encoding="utf-8")
HEAD, BODY = TEXT.split('msgid ""', 1)


def pairs() -> list[tuple[str, str]]:
    """Sentence and German of every entry; plurals once for each form."""
    found = []
    for entry in BODY.split("\n\n")[1:]:
        joined = re.sub(r'"\n"', "", entry)
        one = re.search(r'^msgid "(.*)"$', joined, re.MULTILINE)
        if one is not None:
            said = re.findall(r'^msgstr(?:\[\d\])? "(.*)"$', joined, re.MULTILINE)
            found += [(one[1], german) for german in said]
    return found


PAIRS = pairs()


def test_the_catalogue_was_read() -> None:
    assert ("de", "Deutsch") in LANGUAGES
    assert len(PAIRS) > 2000
    assert dict(PAIRS)["Stand"] == "Pult"


@pytest.mark.parametrize(
    "word", ["du", "dir", "dich", "dein", "deine", "deinem", "deinen", "deiner", "deines", "euch"]
)
def test_nobody_is_called_du(word: str) -> None:
    assert [g for _, g in PAIRS if re.search(rf"\b{word}\b", g, re.IGNORECASE)] == []


@pytest.mark.parametrize(
    "order", ["Spiel es", "Halte ", "Höre ", "Berühre ", "Lass ", "lass ", "Vergleiche ", "Trenne "]
)
def test_orders_are_infinitives(order: str) -> None:
    assert [g for _, g in PAIRS if order in g] == []


@pytest.mark.parametrize(
    "word", ["Ständer", "Jig", "Jigs", "Buckel", "Bogenstrich", "Flicken", "Geflickt", "Sitzung"]
)
def test_words_the_glossary_does_not_have(word: str) -> None:
    assert [g for e, g in PAIRS if re.search(rf"\b{word}\b", g) and e != "Jigwright"] == []


@pytest.mark.parametrize(
    ("english", "german"),
    [
        ("Stand", "Pult"), ("Desk", "Tisch"), ("Jigs", "Übungen"), ("Daybook", "Tagebuch"),
        ("Tables", "Tabellen"), ("Off the string", "Springbogen"), ("Bowing", "Strichart"),
        ("Trend", "Entwicklung"), ("Tone", "Klang"), ("ring", "Resonanz"),
    ],
)  # fmt: skip
def test_the_glossary_stands_in_the_head_and_is_kept(english: str, german: str) -> None:
    assert dict(PAIRS)[english] == german
    assert german in HEAD


@pytest.mark.parametrize(("english", "german"), [("at the Desk", "am tisch"), ("Stand", "pult")])
def test_places_have_their_word_everywhere(english: str, german: str) -> None:
    places = [g for e, g in PAIRS if re.search(rf"\b{english}\b", e)]
    assert places
    assert [g for g in places if german not in g.lower()] == []


def test_no_number_is_written_with_a_point() -> None:
    assert [g for _, g in PAIRS if re.search(r"\d\.\d", g)] == []


def test_every_name_in_braces_is_kept() -> None:
    wrong = []
    for english, german in PAIRS:
        wanted, there = (set(re.findall(r"{(\w+)}", s)) for s in (english, german))
        if not there <= wanted | {"n"}:
            wrong.append(german)
    assert wrong == []
