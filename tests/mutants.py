"""Documents with one thing changed, for whatever answers documents: computed, or refused in words.

Shared by the bounded tests of `make test`, which draw the same mutants every time, and by
`make fuzz`, which draws new ones.
"""

from __future__ import annotations

import copy
import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import product
from random import Random
from typing import Any

from endurant.core.conditioning.document import condition_document
from endurant.core.document import analyse, read_document
from endurant.core.judging.document import judge_document
from endurant.core.quoting import MAX_QUOTED
from endurant.core.refusals import Invalid
from tests.examples import example, names

Path = tuple[str | int, ...]
GONE = object()

RUBBISH: tuple[Any, ...] = (
    None,
    True,
    False,
    0,
    -1,
    1,
    2,
    -0.0,
    0.5,
    -7.25,
    1e-9,
    7e-217,
    5e-324,
    1e-30,
    1e-12,
    1e9,
    1e12,
    1e15,
    1e160,
    1.7976931348623157e308,
    float("inf"),
    float("nan"),
    10**400,
    "",
    "x" * 5000,
    "\ud800",
    "=1+1",
    "1e99",
    "3-4",
    "original",
    "9999-12-31T23:59:59Z",
    "0001-01-01T00:00:00+14:00",
    [],
    [[]],
    [None],
    [1e-200, 1e200],
    {},
    {"value": 1e-300},
    GONE,
)


SHAPES: dict[str, Callable[[list[Any]], list[Any]]] = {
    "backwards": lambda column: column[::-1],
    "flat": lambda column: [column[0]] * len(column),
    "nothing": lambda column: [0.0] * len(column),
    "turned": lambda column: [-x for x in column],
    "tiny": lambda column: [x * 1e-250 for x in column],
    "large": lambda column: [x * 1e6 for x in column],
    "to and fro": lambda column: [x * (-1) ** n for n, x in enumerate(column)],
    "rising": sorted,
    "falling": lambda column: sorted(column, reverse=True),
    "one peak": lambda column: [0.0, *[1.0] * (len(column) > 2), *[0.0] * (len(column) - 2)],
    "shorter": lambda column: column[: len(column) // 2],
    "off": lambda column: [*column[: len(column) // 3], *[None] * (len(column) - len(column) // 3)],
}
"""Columns of numbers in another shape, each the same every time."""


@dataclass(frozen=True)
class Mutant:
    """A document in which one place was changed, and what answers it."""

    name: str
    path: Path
    given: Any
    answer: Callable[[Any], Any]
    document: Any

    def in_words(self) -> str:
        """What was changed, to be written into a report."""
        given = "taken away" if self.given is GONE else repr(self.given)[:80]
        return f"{self.name}: {'.'.join(map(str, self.path))} = {given}"


def compute(document: Any) -> Any:
    """A test document computed."""
    return analyse(read_document(document)).as_json()


def answerers() -> list[tuple[str, Callable[[Any], Any], Any]]:
    """Every worked example with what answers it."""
    pairs: list[tuple[str, Callable[[Any], Any], Any]] = []
    for name in names(""):
        answer = example(name)
        if name.startswith("judging--"):
            pairs.append((name, judge_document, {"kind": answer["kind"], **answer["input"]}))
        elif name.startswith("conditioning--"):
            pairs.append((name, condition_document, {"kind": answer["kind"], **answer["input"]}))
        else:
            pairs.append((name, compute, answer["document"]))
    return pairs


def places(document: Any, luck: Random, path: Path = ()) -> Iterator[Path]:
    """Every place of a document; of a long list three members stand for all."""
    if path:
        yield path
    if isinstance(document, dict):
        for name, value in document.items():
            yield from places(value, luck, (*path, name))
    elif isinstance(document, list):
        several = range(len(document))
        chosen = several if len(document) <= 3 else sorted(luck.sample(several, 3))
        for place in chosen:
            yield from places(document[place], luck, (*path, place))


def changed(document: Any, path: Path, given: Any) -> Any:
    """A copy of the document with something else at that place, or nothing."""
    mutant = copy.deepcopy(document)
    spot = at(mutant, path[:-1])
    last: Any = path[-1]
    if given is GONE:
        del spot[last]
    else:
        spot[last] = copy.deepcopy(given)
    return mutant


def mutants(luck: Random, each: int) -> Iterator[Mutant]:
    """So many mutants of every worked example."""
    for name, answer, document in answerers():
        every = list(places(document, luck))
        for _ in range(each):
            path, given = luck.choice(every), luck.choice(RUBBISH)
            if luck.random() < 0.15:
                path = (*path[:-1], "another_field")
                if not isinstance(at(document, path[:-1]), dict):
                    continue
                given = luck.choice(RUBBISH[:-1])
            spot = at(document, path[:-1])
            column: Any = spot.get(path[-1]) if isinstance(spot, dict) else None
            if is_column(column) and luck.random() < 0.7:
                shape = luck.choice(list(SHAPES))
                shaped = SHAPES[shape](column)
                yield Mutant(name, path, shape, answer, changed(document, path, shaped))
                continue
            yield Mutant(name, path, given, answer, changed(document, path, given))


def is_column(value: Any) -> bool:
    """A list of plain numbers."""
    return (
        isinstance(value, list)
        and bool(value)
        and all(isinstance(x, int | float) and not isinstance(x, bool) for x in value)
    )


def at(document: Any, path: Path) -> Any:
    """What stands at a place."""
    for step in path:
        document = document[step]
    return document


def reshaped() -> Iterator[Mutant]:
    """Every worked example with the columns of its first specimen in each of the shapes."""
    for name, answer, document in answerers():
        for entry in document.get("specimens", [])[:1]:
            for field, columns in entry.items():
                if not isinstance(columns, dict):
                    continue
                for column, shape in product(columns, SHAPES):
                    if is_column(columns[column]):
                        path: Path = ("specimens", 0, field, column)
                        shaped = SHAPES[shape](columns[column])
                        yield Mutant(name, path, shape, answer, changed(document, path, shaped))


def fault(answer: Callable[[Any], Any], document: Any) -> str | None:
    """What is wrong with the answer to a document; None when it is computed or refused well."""
    try:
        given = answer(document)
    except Invalid as refusal:
        return fault_of_refusal(refusal.sentence, document)
    except Exception as error:  # whatever is raised here is what is looked for
        return f"{type(error).__name__}: {str(error)[:200]}"
    try:
        json.dumps(given, allow_nan=False).encode()
    except (ValueError, UnicodeError) as error:
        return f"not written as JSON: {error}"
    return None


def fault_of_refusal(sentence: str, document: Any) -> str | None:
    """A refusal is one sentence in UTF-8 that repeats little of what was given."""
    if not sentence.strip():
        return "the refusal says nothing"
    if "\n" in sentence or "Traceback" in sentence:
        return f"no sentence: {sentence[:200]}"
    try:
        sentence.encode()
    except UnicodeError:
        return "the refusal cannot be written as UTF-8"
    longest = max((len(run) for run in re.findall(r"x{2,}", sentence)), default=0)
    if longest > MAX_QUOTED:
        return f"the refusal repeats {longest} characters of what was given"
    return None
