"""What differs between methods that are easily taken for each other, as the pages show it."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files


@dataclass(frozen=True)
class Difference:
    """One other method, and in two sentences what it does otherwise."""

    method: str
    text: str


def differences_of(method_id: str) -> list[Difference]:
    """Return the methods that this one is easily taken for, in the order of the file."""
    return [
        Difference(other, text)
        for methods, text in _pairs()
        if method_id in methods
        for other in methods
        if other != method_id
    ]


@cache
def _pairs() -> list[tuple[tuple[str, ...], str]]:
    text = files("endurant.core.methods").joinpath("texts/differences.toml").read_text("utf-8")
    return [(tuple(pair["methods"]), pair["says"]) for pair in tomllib.loads(text)["pair"]]
