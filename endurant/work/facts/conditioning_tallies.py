"""Stays counted against the logs of their enclosures, kept as the logs grow.

A tally is stored once for all specimens that were placed together and follow the same
rules. It is advanced in the transaction that stores a reading, so that nobody who looks counts
a log from its beginning.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import delete, func, or_, select, tuple_
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from endurant.core.conditioning.periods import (
    Counted,
    Elapsed,
    LogRules,
    Policy,
    Reading,
    Tally,
    tally_of,
)
from endurant.store.cards import keeps_cards
from endurant.store.tables import ConditioningPeriod, ConditioningTally, EnclosureReading
from endurant.work.base.memory import Remembered
from endurant.work.facts.laboratory import known_laboratory

Key = tuple[int, datetime, str]
"""Enclosure, moment of placing, and hash of the rules."""

POLICIES: tuple[Policy, ...] = ("restart", "subtract")
"""Jobs count by the policy that they began with: either may change with a reading."""
SAME_WITHIN = timedelta(seconds=2)
MAX_UNSTORED = 200
"""Readings that are counted again at each look, rather than stored by it."""
MAX_TALLIES = 20_000
_tallies: Remembered[Tally] = Remembered(MAX_TALLIES)
"""Tallies as they were stored, by their key and the hash of what is stored."""
_TALLY, _RULES = TypeAdapter(Tally), TypeAdapter(LogRules)
_KNOWN, _FRESH = "tallies", "fresh readings"


def lab_policy(session: Session) -> Policy:
    """What an excursion does to the clock in this laboratory."""
    if "policy" not in session.info:
        lab = known_laboratory(session)
        chosen = None if lab is None else lab.conditioning_policy
        session.info["policy"] = "subtract" if chosen == "subtract" else "restart"
    policy: Policy = session.info["policy"]
    return policy


def log_between(
    session: Session, enclosure_id: int, start: datetime, end: datetime
) -> list[Reading]:
    """The readings of a stretch, with the one that stood at its start and the next after it."""
    table = EnclosureReading
    columns = select(table.at, table.temperature_c, table.humidity_percent)
    own = columns.where(table.enclosure_id == enclosure_id)
    before = session.execute(own.where(table.at <= start).order_by(table.at.desc()).limit(1))
    within = session.execute(own.where(table.at > start, table.at <= end).order_by(table.at))
    after = session.execute(own.where(table.at > end).order_by(table.at).limit(1))
    return [(row[0], row[1], row[2]) for row in (*before, *within, *after)]


def key_of(enclosure_id: int, placed_at: datetime, rules: LogRules) -> Key:
    """What a tally is stored under."""
    room = rules.atmosphere
    numbers = (
        room.temperature_c,
        room.temperature_tolerance_c,
        room.humidity_percent,
        room.humidity_tolerance_percent,
        room.least_minutes,
        rules.max_gap_min,
        rules.max_outside_percent,
    )
    text = json.dumps([None if number is None else float(number) for number in numbers])
    return enclosure_id, placed_at, hashlib.sha256(text.encode()).hexdigest()


def load_tallies(session: Session, placed: Iterable[tuple[int, datetime]]) -> None:
    """Read the tallies of these periods, and what came since, in a few queries for all of them."""
    places = sorted(set(placed))
    known = session.info.setdefault(_KNOWN, {})
    if not places:
        return
    table = ConditioningTally
    own = tuple_(table.enclosure_id, table.placed_at).in_(places)
    said = func.md5(table.tally)  # a log that was mended gives another tally up to the same reading
    keys = select(table.enclosure_id, table.placed_at, table.rules, said).where(own)
    stored = [tuple(row) for row in session.execute(keys)]
    if any(_tallies.get(key) is None for key in stored):
        whole = select(table.enclosure_id, table.placed_at, table.rules, said, table.tally)
        for row in session.execute(whole.where(own)):
            _tallies.put(tuple(row)[:4], _TALLY.validate_python(row[4]["tally"]))
    for key in stored:
        read = _tallies.get(key)
        if read is not None:
            known[key[:3]] = read
    fresh = session.info.setdefault(_FRESH, {})
    for enclosure_id in {place[0] for place in places}:
        upto = [
            tally.last[0] for key, tally in known.items() if key[0] == enclosure_id and tally.last
        ]
        if upto:
            fresh[enclosure_id] = _readings_after(session, enclosure_id, min(upto))


def count_by_log(
    session: Session, enclosure_id: int, placed_at: datetime, until: datetime, rules: LogRules
) -> Counted:
    """What a log proves of a period from `placed_at` to `until`, counted once for a session."""
    key = key_of(enclosure_id, placed_at, rules)
    counted: dict[tuple[Key, datetime], Counted] = session.info.setdefault("counted", {})
    if (key, until) not in counted:
        known = _known_tally(session, key)
        tally = known
        if tally is None or tally.last is None or tally.last[0] > until:
            log = log_between(session, enclosure_id, placed_at, until)
            tally = Tally(placed_at)
        else:
            log = _log_after(session, enclosure_id, tally.last[0], until)
        tally = tally_of(tally, (row for row in log if row[0] <= until), rules)
        after = next((row[0] for row in log if row[0] > until), None)
        counted[key, until] = tally.at(until, rules, after)
        session.info.setdefault(_KNOWN, {}).setdefault(key, tally)
        # What took long to count is stored by whoever counted it, for those who look next.
        took_long = len(log) > MAX_UNSTORED
        if (keeps_cards(session) or took_long) and _is_newer(tally, known):
            _store(session, key, tally, rules)
    return counted[key, until]


def _is_newer(tally: Tally, known: Tally | None) -> bool:
    if tally.last is None:
        return False
    return known is None or known.last is None or known.last[0] < tally.last[0]


def _known_tally(session: Session, key: Key) -> Tally | None:
    known: dict[Key, Tally] = session.info.setdefault(_KNOWN, {})
    if key not in known:
        row = session.get(ConditioningTally, key)
        if row is None:
            return None
        known[key] = _TALLY.validate_python(row.tally["tally"])
    return known[key]


def _log_after(
    session: Session, enclosure_id: int, after: datetime, until: datetime
) -> list[Reading]:
    """What was read after a moment, up to `until` and the first reading after that."""
    fresh = session.info.get(_FRESH, {}).get(enclosure_id)
    if fresh is not None:
        return [row for row in fresh if row[0] > after]
    table = EnclosureReading
    columns = select(table.at, table.temperature_c, table.humidity_percent)
    own = columns.where(table.enclosure_id == enclosure_id).order_by(table.at)
    within = session.execute(own.where(table.at > after, table.at <= until))
    beyond = session.execute(own.where(table.at > until).limit(1))
    return [(row[0], row[1], row[2]) for row in (*within, *beyond)]


def _readings_after(session: Session, enclosure_id: int, after: datetime) -> list[Reading]:
    table = EnclosureReading
    rows = session.execute(
        select(table.at, table.temperature_c, table.humidity_percent)
        .where(table.enclosure_id == enclosure_id, table.at > after)
        .order_by(table.at)
    )
    return [(row[0], row[1], row[2]) for row in rows]


def _store(session: Session, key: Key, tally: Tally, rules: LogRules) -> None:
    assert tally.last is not None  # noqa: S101 - without a reading nothing is stored
    plain = {
        "tally": _TALLY.dump_python(tally, mode="json"),
        "rules": _RULES.dump_python(rules, mode="json"),
    }
    row = insert(ConditioningTally).values(
        enclosure_id=key[0], placed_at=key[1], rules=key[2], upto=tally.last[0], tally=plain
    )
    session.execute(row.on_duplicate_key_update(upto=row.inserted.upto, tally=row.inserted.tally))


def advance_tallies(
    session: Session, enclosure_id: int, stored: Sequence[Reading]
) -> set[datetime]:
    """Count readings that were just stored into the periods that go on in an enclosure.

    Returns the moments of placing whose periods are now complete at another time: earlier, later,
    or no longer. What was counted beyond the first of them is dropped, to be counted anew.
    """
    if not stored:
        return set()
    changed = _forget(session, enclosure_id, stored[0][0])
    goes_on = select(ConditioningPeriod.placed_at).where(
        ConditioningPeriod.enclosure_id == enclosure_id, ConditioningPeriod.open_for.is_not(None)
    )
    if _is_first_log(session, enclosure_id, stored):
        changed |= set(session.scalars(goes_on))
    own = select(ConditioningTally).where(ConditioningTally.enclosure_id == enclosure_id)
    rows = list(
        session.scalars(own.where(ConditioningTally.placed_at.in_(goes_on)).with_for_update())
    )
    log = _readings_after(session, enclosure_id, min(row.upto for row in rows)) if rows else []
    for row in rows:
        tally = _TALLY.validate_python(row.tally["tally"])
        rules = _RULES.validate_python(row.tally["rules"])
        before = [
            tally.at(max(row.upto, tally.placed_at), rules).elapsed(each) for each in POLICIES
        ]
        tally = tally_of(tally, (reading for reading in log if reading[0] > row.upto), rules)
        newest = tally.last[0] if tally.last is not None else row.upto
        after = [tally.at(max(newest, tally.placed_at), rules).elapsed(each) for each in POLICIES]
        if not all(map(_same, before, after)):
            changed.add(row.placed_at)
        _store(session, (row.enclosure_id, row.placed_at, row.rules), tally, rules)
        session.expire(row)
    return changed


def _is_first_log(session: Session, enclosure_id: int, stored: Sequence[Reading]) -> bool:
    """Nothing was read there before: periods were counted by the clock until now."""
    at = EnclosureReading.at
    others = select(at).where(
        EnclosureReading.enclosure_id == enclosure_id,
        or_(at < stored[0][0], at > stored[-1][0]),
    )
    return session.scalar(others.limit(1)) is None


def _forget(session: Session, enclosure_id: int, since: datetime) -> set[datetime]:
    """Drop what was counted at or beyond a moment at which the log has become another."""
    table = ConditioningTally
    beyond = (table.enclosure_id == enclosure_id, table.upto >= since)
    placed = set(session.scalars(select(table.placed_at).where(*beyond)))
    if placed:
        session.execute(delete(table).where(*beyond))
    return placed


def _same(before: Elapsed, after: Elapsed) -> bool:
    if before.ready != after.ready or before.excursions != after.excursions:
        return False
    was, is_now = before.runs_out_at, after.runs_out_at
    if was is None or is_now is None:
        return was is None and is_now is None
    return abs(was - is_now) <= SAME_WITHIN


def stored_tallies(session: Session) -> list[tuple[Key, dict[str, Any]]]:
    """Every tally as it is stored, to be compared with the log."""
    rows = session.scalars(select(ConditioningTally).execution_options(yield_per=500))
    return [((row.enclosure_id, row.placed_at, row.rules), row.tally) for row in rows]
