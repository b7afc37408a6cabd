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
from endurant.core.methods.guide import Advice
from endurant.core.quantities import above

WAYS = ("length", "width")
SIDES = ("face", "back")
ORIGINAL, REFURBISHED = "original", "refurbished"
NOT_FOR_SALE = "CLASS 3: this cloth may not be sold for clothing; tell the reviewer and the client"


def order_of_burning(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], facts: Mapping[str, Any]
) -> Advice:
    """What is next, from everything that has burned."""
    surface = str(parameters["surface"])
    sides = parameters.get("sides_tested") or (2 if surface == "raised" else 1)
    most_s = float(parameters.get("max_transfer_s") or 45)
    valid = [entry for entry in entries if not _is_void(entry, most_s)]
    for state in (ORIGINAL, REFURBISHED):
        members = [entry for entry in valid if entry.get("state", ORIGINAL) == state]
        advice = _of_state(members, surface, SIDES[:sides], state)
        if advice is not None:
            return advice
        decided = _finding(members, surface)
        if decided.fire_class == 3:
            return Advice((f"Row {decided.row} decides: {NOT_FOR_SALE}",))
        is_begun = any(entry.get("state") == REFURBISHED for entry in valid)
        if state == ORIGINAL and not is_begun and not facts.get("refurbishing"):
            says = f"Row {decided.row} decides: class {decided.fire_class} as it came"
            return Advice((says, "Next: refurbish, then the preliminary again"))
    return Advice(("Both states are decided: nothing more burns",))


def _of_state(
    members: Sequence[Mapping[str, Any]], surface: str, sides: Sequence[str], state: str
) -> Advice | None:
    """What is next in a state; None once its table has decided."""
    tried = {_way(entry) for entry in members if entry["round"] == "preliminary"}
    for side in sides:
        for way in WAYS:
            if (way, side) not in tried:
                says = f"Preliminary, {state}: the {way}, {side} to the flame, is not tried yet"
                return Advice((says,), {"round": "preliminary", "side": side})
    way, side = _quickest(members)
    words = f"the quickest way is the {way}, {side} to the flame"
    first, further = (
        [entry for entry in members if entry["round"] == name] for name in ("first", "further")
    )
    finding = _finding(members, surface)
    if len(first) < ROUND_SIZE:
        says = f"First five, {state}: {len(first)} of {ROUND_SIZE}; {words}"
        return Advice((says, *_guess(first, [], surface)), {"round": "first", "side": side})
    if finding.asks_for_more:
        says = f"Row {finding.row} asks for five further: {len(further)} of {ROUND_SIZE}; {words}"
        return Advice((says, *_guess(first, further, surface)), {"round": "further", "side": side})
    return None


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
    return (f"If the rest burned like those so far: {outcome}, row {finding.row} (a guess)",)


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


def _is_void(entry: Mapping[str, Any], most_s: float) -> bool:
    return bool(entry.get("observations")) or above(float(entry.get("transfer_s") or 0), most_s)
