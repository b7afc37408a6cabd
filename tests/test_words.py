"""What people read is plain English: no ruled-out word, and no sentence that is too long."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any

import pytest
from babel.messages.pofile import read_po

from endurant.core.methods import all_methods
from endurant.core.methods.differences import differences_of

ROOT = Path(__file__).parent.parent
MAX_WORDS = 32
DOCUMENTS = tuple(
    ["README.md"]
    + [
        f"docs/{name}.md"
        for name in (
            "guide",
            "operating",
            "architecture",
            "security",
            "known-gaps",
            "cutting-document",
            "planning-document",
        )
    ]
)
RULED_OUT = re.compile(
    r"""\b(
        whom\ to\ tell|the\ house|t(ake|akes|aken|ook)\ (it\ )?back|let\ go|pretend\w*
        |makes?\ no\ sense|set\ aside|wears?\ out|somebody\ new|as\ it\ should\ be
        |fetching|cannot\ say|has\ its\ hours|one\ more\ specimen|whoever|asked\ otherwise
        |ghosts?|happenings?|is\ known\ here|held\ against|keep\ it\ so|that\ is\ all
        |br(ing|ings|ought)\ in|was\ told|were\ told|somebody|how\ much\ to\ send
        |second\ eyes|stays?\ (began|ended|of\ a\ specimen)
    )\b""",
    re.IGNORECASE | re.VERBOSE,
)
OF_A_ROOM = re.compile(r"\b(hang(s|ing)?|hung)\b", re.IGNORECASE)
"""In a guide a plate or a bar may hang; a specimen in a room is placed in it."""

Text = tuple[str, str]


def catalogue() -> Iterator[Text]:
    """The sentences of the server."""
    with (ROOT / "endurant/core/messages.po").open("rb") as file:
        for message in read_po(file):
            if message.id:
                yield f"messages.po, {message.id}", str(message.string)


def guides() -> Iterator[Text]:
    """The pages of the methods."""
    for name, method in all_methods().items():
        for text in _texts(method.guide):
            if " " in text:
                yield f"the page of {name}", text
        for other in differences_of(name):
            yield f"the difference between {name} and {other.method}", other.text


def screens() -> Iterator[Text]:
    """The texts of the browser, one for each number of things."""
    pages = json.loads((ROOT / "web/src/locales/en.json").read_text())
    for page, texts in pages.items():
        for name, text in texts.items():
            for each in text.split(" | "):
                yield f"en.json, {page}.{name}", each


def documents() -> Iterator[Text]:
    """The paragraphs of the documents that people work with."""
    for name in DOCUMENTS:
        text = re.sub(r"```.*?```", "", (ROOT / name).read_text(), flags=re.DOTALL)
        for paragraph in re.split(r"\n\s*\n|\n(?=[-*|#] ?)", text):
            yield name, " ".join(paragraph.split())


def _texts(part: Any) -> Iterator[str]:
    if isinstance(part, str):
        yield part
    elif isinstance(part, list | tuple):
        for each in part:
            yield from _texts(each)
    elif is_dataclass(part):
        for field in fields(part):
            yield from _texts(getattr(part, field.name))


@pytest.mark.parametrize("source", [catalogue, guides, screens, documents])
def test_no_word_is_ruled_out(source: Any) -> None:
    found = [f"{where}: {text}" for where, text in source() if RULED_OUT.search(text)]
    assert found == []


@pytest.mark.parametrize("source", [catalogue, screens, documents])
def test_nothing_hangs_in_a_room(source: Any) -> None:
    assert [f"{where}: {text}" for where, text in source() if OF_A_ROOM.search(text)] == []


@pytest.mark.parametrize("source", [catalogue, guides, screens, documents])
def test_no_sentence_is_too_long(source: Any) -> None:
    long = [
        f"{where}: {sentence}"
        for where, text in source()
        for sentence in re.split(r"(?<=[.!?;:])\s+|·", re.sub(r"(`[^`]*`(, )?)+", "x ", text))
        if len(sentence.split()) > MAX_WORDS
    ]
    assert long == []


def test_the_reader_finds_what_it_looks_for() -> None:
    assert RULED_OUT.search("Whoever comes next is told")
    assert not RULED_OUT.search("The person is notified")
    assert len(list(screens())) > 500
    assert len(list(catalogue())) > 600
    assert {where for where, _ in documents()} == set(DOCUMENTS)
