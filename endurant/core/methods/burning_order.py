"""Which specimen of a clothing fabric burns next, what decides it, and what would come of it.

16 CFR 1610: a preliminary each way and side, then five the quickest way, five more where the
table asks for them, and the same again after refurbishing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import cycle, islice
from math import inf
from typing import Any

from endurant.core.methods.burning_table import ROUND_SIZE, Burned, Finding, finding_of
from endurant.core.methods.guide import Advice, Due
from endurant.core.quantities import above

WAYS = ("length", "width")
SIDES = ("face", "back")
ORIGINAL, REFURBISHED = "original", "refurbished"
PRELIMINARY, FIRST, FURTHER = "preliminary", "first", "further"
NOT_FOR_SALE = (
    "CLASS 3: this fabric may not be sold for clothing; notify the reviewer and the client"
)


def order_of_burning(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], facts: Mapping[str, Any]
) -> Advice:
    """Return where the test stands and what is next, from everything that has burned."""
    surface = str(parameters["surface"])
    stage = _stage(parameters, entries)
    if stage is None:
        return Advice(_decided(parameters, entries))
    state, members, round_name = stage
    if round_name == PRELIMINARY:
        ways = ", ".join(f"{way} with the {side} up" for way, side in _untried(parameters, members))
        return Advice((f"Preliminary, {state}. Not burned yet: {ways}",))
    way, side = _quickest(members)
    first, further = _rounds(members)
    counted = first if round_name == FIRST else further
    strips = {FIRST: "First five", FURTHER: "Five further"}[round_name]
    return Advice(
        (
            f"{strips}, {state}: {len(counted)} of {ROUND_SIZE} burned. The quickest way is the "
            f"{way} with the {side} up",
            *_guess(first, further, surface),
        )
    )


def strips_due(parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]]) -> list[Due]:
    """Return the strips of the round that is due; none once the class is decided."""
    stage = _stage(parameters, entries)
    if stage is None:
        return []
    state, members, round_name = stage
    if round_name == PRELIMINARY:
        return [
            _due(way, 1, round=PRELIMINARY, side=side, state=state)
            for way, side in _untried(parameters, members)
        ]
    way, side = _quickest(members)
    first, further = _rounds(members)
    burned = len(first if round_name == FIRST else further)
    return [_due(way, ROUND_SIZE - burned, round=round_name, side=side, state=state)]


def _due(way: str, count: int, **presets: str) -> Due:
    return Due(way, count, presets, treated=presets["state"] == REFURBISHED)


def _stage(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]]
) -> tuple[str, list[Mapping[str, Any]], str] | None:
    """State, its valid specimens and the round that is due; None once the class is decided."""
    surface = str(parameters["surface"])
    for state in (ORIGINAL, REFURBISHED):
        members = _members(parameters, entries, state)
        if _untried(parameters, members):
            return state, members, PRELIMINARY
        first, further = _rounds(members)
        finding = _finding(members, surface)
        if len(first) < ROUND_SIZE:
            return state, members, FIRST
        if finding.asks_for_more and len(further) < ROUND_SIZE:
            return state, members, FURTHER
        if finding.fire_class == 3:
            return None
    return None


def _members(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], state: str
) -> list[Mapping[str, Any]]:
    max_s = float(parameters.get("max_transfer_s") or 45)
    return [
        entry
        for entry in entries
        if entry.get("state", ORIGINAL) == state and not _is_void(entry, max_s)
    ]


def _rounds(
    members: Sequence[Mapping[str, Any]],
) -> tuple[list[Mapping[str, Any]], list[Mapping[str, Any]]]:
    """The specimens of the first five, and of the further five."""
    first = [entry for entry in members if entry["round"] == FIRST]
    return first, [entry for entry in members if entry["round"] == FURTHER]


def _untried(
    parameters: Mapping[str, Any], members: Sequence[Mapping[str, Any]]
) -> list[tuple[str, str]]:
    """The ways and sides that the preliminary still has to try."""
    sides = parameters.get("sides_tested") or (2 if parameters["surface"] == "raised" else 1)
    tried = {_way(entry) for entry in members if entry["round"] == PRELIMINARY}
    return [(way, side) for way in WAYS for side in SIDES[: int(sides)] if (way, side) not in tried]


def _decided(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]]
) -> tuple[str, ...]:
    """The class of each state and the row of the table that decided it."""
    text = []
    for state in (ORIGINAL, REFURBISHED):
        members = _members(parameters, entries, state)
        if not members:
            continue
        finding = _finding(members, str(parameters["surface"]))
        outcome = "no class" if finding.fire_class is None else f"class {finding.fire_class}"
        text.append(f"{state.capitalize()}: {outcome}, row {finding.row}")
        if finding.fire_class == 3:
            text.append(NOT_FOR_SALE)
    return (*text, "The class is decided: no further specimen is needed")


def _guess(
    first: Sequence[Mapping[str, Any]], further: Sequence[Mapping[str, Any]], surface: str
) -> tuple[str, ...]:
    """What would come of it if the rest burned like those so far."""
    so_far = [*first, *further]
    if not so_far:
        return ()
    burned = [_burned(entry) for entry in so_far]
    like = list(islice(cycle(burned), 2 * ROUND_SIZE))
    named = [("", each) for each in like]
    finding = finding_of(named[:ROUND_SIZE], named[ROUND_SIZE:], surface)
    outcome = "no class" if finding.fire_class is None else f"class {finding.fire_class}"
    return (f"If the rest burn like those so far: {outcome}, row {finding.row} (a guess)",)


def _finding(members: Sequence[Mapping[str, Any]], surface: str) -> Finding:
    first, further = (
        [(str(entry["label"]), _burned(entry)) for entry in members if entry["round"] == name]
        for name in ("first", "further")
    )
    return finding_of(first[:ROUND_SIZE], further[:ROUND_SIZE], surface)


def _quickest(members: Sequence[Mapping[str, Any]]) -> tuple[str, str]:
    """The way and side of the least time; equal ones: length before width, face before back."""
    preliminary = [entry for entry in members if entry["round"] == "preliminary"]
    return min(
        (_way(entry) for entry in preliminary),
        key=lambda way: (
            min(
                float(entry.get("burn_time_s") or inf)
                for entry in preliminary
                if _way(entry) == way
            ),
            WAYS.index(way[0]),
            SIDES.index(way[1]),
        ),
    )


def _way(entry: Mapping[str, Any]) -> tuple[str, str]:
    return str(entry["direction"]), str(entry.get("side", "face"))


def _burned(entry: Mapping[str, Any]) -> Burned:
    seconds = entry.get("burn_time_s")
    return (None if seconds is None else round(10 * float(seconds))), str(entry["code"])


def _is_void(entry: Mapping[str, Any], max_s: float) -> bool:
    return bool(entry.get("observations")) or above(float(entry.get("transfer_s") or 0), max_s)
