"""The conditioning document: did a specimen serve its time, by its enclosure's log or by weight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, PlainValidator
from pydantic_core import PydanticCustomError

from endurant.core.bounds import refuse_what_is_not_finite
from endurant.core.conditioning import Atmosphere, Served, find_atmosphere
from endurant.core.methods.method import NotNegative, Number, Positive, Strict
from endurant.core.quantities import above, at_least
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid, quoted

Policy = Literal["restart", "subtract"]


def _as_moment(given: Any) -> datetime:
    """An ISO time with Z or an offset, in UTC."""
    if isinstance(given, datetime) and given.tzinfo is not None:
        return given.astimezone(UTC)
    refused = PydanticCustomError(
        "column",
        "must be an ISO time with Z or an offset, from 1900 to 2200; {given} was given",
        {"given": quoted(given)},
    )
    if not isinstance(given, str):
        raise refused
    try:
        moment = datetime.fromisoformat(given)
        if moment.tzinfo is None:
            raise refused
        moment = moment.astimezone(UTC)
    except (ValueError, OverflowError):
        raise refused from None
    if not EARLIEST <= moment <= LATEST:
        raise refused
    return moment


EARLIEST, LATEST = datetime(1900, 1, 1, tzinfo=UTC), datetime(2200, 1, 1, tzinfo=UTC)
Moment = Annotated[Any, PlainValidator(_as_moment)]
Temperature = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-273.15, le=5000)]
Percent = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=0, le=100)]
Mass = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=1e-6, le=1e8)]


class AtmosphereAsked(Strict):
    """Set point, tolerances and least stay; no humidity when it is null."""

    temperature_c: Number
    temperature_tolerance_c: NotNegative
    humidity_percent: Percent | None = None
    humidity_tolerance_percent: NotNegative | None = None
    least_minutes: Positive


class LogAsked(Strict):
    """A stay in an enclosure with its log."""

    columns: ClassVar = {"log": ("time", "temperature_c", "humidity_percent")}

    kind: Literal["conditioning"] = "conditioning"
    atmosphere: str | AtmosphereAsked
    log: Annotated[list[tuple[Moment, Temperature, Percent | None]], Field(max_length=2_000_000)]
    hung_at: Moment
    now: Moment
    policy: Policy = "restart"
    max_gap_min: Positive = 15
    max_outside_percent: Percent = 5


class WeighingsAsked(Strict):
    """Weighings of a specimen."""

    columns: ClassVar = {"weighings": ("time", "mass_g")}

    kind: Literal["conditioning"] = "conditioning"
    weighings: Annotated[list[tuple[Moment, Mass]], Field(min_length=1, max_length=100_000)]
    min_hours: Positive = 2
    max_percent: NotNegative = 0.25


@dataclass(frozen=True)
class Stretch:
    """A stretch of a stay: in tolerance, outside, or unproven; with the reading that stands.

    `gap`: no reading came for longer than the log may be silent.
    """

    start: datetime
    end: datetime
    state: Literal["inside", "outside", "unproven"]
    reading: tuple[float, float | None] | None
    gap: bool = False

    @property
    def minutes(self) -> float:
        """Its length."""
        return (self.end - self.start) / timedelta(minutes=1)


def condition_document(data: Any) -> dict[str, Any]:
    """The object that answers a conditioning document; raises Invalid."""
    if not isinstance(data, dict):
        raise Invalid("a conditioning document is an object with a log, or with weighings")
    if "weighings" in data:
        answer = weigh(read_model(WeighingsAsked, data, "conditioning"))
    else:
        answer = serve(read_model(LogAsked, data, "conditioning"))
    refuse_what_is_not_finite(answer, "conditioning")
    return answer


def serve(asked: LogAsked, own_room: Atmosphere | None = None) -> dict[str, Any]:
    """What a log proves of a stay, under both schools.

    `own_room` goes before the atmosphere that is named.
    """
    atmosphere = asked.atmosphere
    if own_room is not None:
        atmosphere = asked_of(own_room)
    elif isinstance(atmosphere, str):
        atmosphere = asked_of(find_atmosphere(atmosphere))
    if asked.now < asked.hung_at:
        raise Invalid("now lies before hung_at; expected a later time", field="now")
    check_log(asked.log, atmosphere)
    stretches = stretches_of(asked, atmosphere)
    least = atmosphere.least_minutes
    limit = asked.max_outside_percent / 100 * least
    schools = {
        "restart": count(stretches, asked.now, least, None),
        "subtract": count(stretches, asked.now, least, limit),
    }
    own = schools[asked.policy]
    return {
        "least_minutes": least,
        "minutes_in_tolerance": _total(stretches, "inside"),
        "minutes_outside": _total(stretches, "outside"),
        "minutes_unproven": _total(stretches, "unproven"),
        "excursions": excursions(stretches, asked.now, atmosphere),
        "gaps": [
            {"from": in_utc(one.start), "to": in_utc(one.end), "minutes": one.minutes}
            for one in stretches
            if one.gap
        ],
        **schools,
        "policy": asked.policy,
        "ready": own["ready"],
        "minutes_left": max(least - own["minutes"], 0.0),
    }


def check_log(
    log: Sequence[tuple[datetime, float, float | None]], atmosphere: AtmosphereAsked
) -> None:
    """Readings in order of time, with a humidity where the atmosphere has one."""
    for place, (row, after) in enumerate(pairwise(log), start=2):
        if after[0] <= row[0]:
            raise Invalid(
                f"log: row {place}: time is {in_utc(after[0])}, not after the row before; "
                "times rise from row to row",
                field="time",
            )
    if atmosphere.humidity_percent is not None:
        for place, row in enumerate(log, start=1):
            if row[2] is None:
                raise Invalid(
                    f"log: row {place}: humidity_percent is missing; expected a number",
                    field="humidity_percent",
                )


def is_inside(reading: tuple[float, float | None], atmosphere: AtmosphereAsked) -> bool:
    """The reading is in tolerance; the ends are inside."""
    return not (_temperature_out(reading, atmosphere) or _humidity_out(reading, atmosphere))


def _temperature_out(reading: tuple[float, float | None], atmosphere: AtmosphereAsked) -> bool:
    return above(abs(reading[0] - atmosphere.temperature_c), atmosphere.temperature_tolerance_c)


def _humidity_out(reading: tuple[float, float | None], atmosphere: AtmosphereAsked) -> bool:
    wanted, tolerance = atmosphere.humidity_percent, atmosphere.humidity_tolerance_percent
    if wanted is None or tolerance is None or reading[1] is None:
        return False
    return above(abs(reading[1] - wanted), tolerance)


def stretches_of(asked: LogAsked, atmosphere: AtmosphereAsked) -> list[Stretch]:
    """The stay from hanging to now, cut at the readings; each reading stands until the next."""
    hung, now, log = asked.hung_at, asked.now, asked.log
    found: list[Stretch] = []
    first = log[0][0] if log else now
    if first > hung:
        end = min(first, now)
        long = above((end - hung) / timedelta(minutes=1), asked.max_gap_min)
        found.append(Stretch(hung, end, "unproven", None, gap=long))
    for place, (at, temperature, humidity) in enumerate(log):
        until = log[place + 1][0] if place + 1 < len(log) else max(now, at)
        start, end = max(at, hung), min(until, now)
        if start > now or until < hung or (until == hung and until < now):
            continue
        reading = (temperature, humidity)
        long = above((until - at) / timedelta(minutes=1), asked.max_gap_min)
        if not is_inside(reading, atmosphere):
            found.append(Stretch(start, end, "outside", reading, gap=long and end > start))
        elif long:
            found.append(Stretch(start, end, "unproven", reading, gap=end > start))
        else:
            found.append(Stretch(start, end, "inside", reading))
    return found


def _total(stretches: Sequence[Stretch], state: str) -> float:
    return sum((one.minutes for one in stretches if one.state == state), 0.0)


def count(
    stretches: Sequence[Stretch], now: datetime, least: float, outside_limit: float | None
) -> dict[str, Any]:
    """What one school counts at `now`.

    Without a limit every excursion restarts the clock; with one only when the total outside
    since the last restart reaches it, in minutes.
    """
    minutes, outside, restarts = 0.0, 0.0, False
    ready_at: datetime | None = None
    for stretch in stretches:
        if stretch.state == "outside":
            outside += stretch.minutes
            restarts = outside_limit is None or at_least(outside, outside_limit)
            if restarts:
                minutes, ready_at = 0.0, None
            continue
        if restarts:
            outside, restarts = 0.0, False
        if stretch.state == "inside":
            missing = least - minutes
            minutes += stretch.minutes
            if ready_at is None and at_least(minutes, least):
                ready_at = stretch.start + timedelta(minutes=max(missing, 0.0))
    ready = at_least(minutes, least)
    proven = bool(stretches) and stretches[-1].state == "inside"
    due = None if ready or not proven else now + timedelta(minutes=least - minutes)
    return {
        "minutes": minutes,
        "ready": ready,
        "ready_at": in_utc(ready_at) if ready and ready_at else None,
        "due_at": in_utc(due) if due else None,
    }


def excursions(
    stretches: Sequence[Stretch], now: datetime, atmosphere: AtmosphereAsked
) -> list[dict[str, Any]]:
    """Each run of stretches outside, with its worst readings."""
    found: list[dict[str, Any]] = []
    members: list[Stretch] = []
    for place, stretch in enumerate(stretches):
        if stretch.state != "outside":
            continue
        members.append(stretch)
        after = stretches[place + 1] if place + 1 < len(stretches) else None
        if after is not None and after.state == "outside":
            continue
        readings = [one.reading for one in members if one.reading is not None]
        found.append(
            {
                "from": in_utc(members[0].start),
                "to": None if after is None else in_utc(stretch.end),
                "minutes": sum(one.minutes for one in members),
                "worst_temperature_c": _worst(
                    [one[0] for one in readings if _temperature_out(one, atmosphere)],
                    atmosphere.temperature_c,
                ),
                "worst_humidity_percent": _worst(
                    [
                        one[1]
                        for one in readings
                        if one[1] is not None and _humidity_out(one, atmosphere)
                    ],
                    atmosphere.humidity_percent,
                ),
            }
        )
        members = []
    return found


def _worst(readings: Sequence[float], set_point: float | None) -> float | None:
    if set_point is None:
        return None
    return max(readings, key=lambda one: abs(one - set_point), default=None)


def served_by_log(
    atmosphere: Atmosphere,
    log: Sequence[tuple[datetime, float, float | None]],
    stay: tuple[datetime, datetime],
    policy: Policy,
) -> Served:
    """What a log proves of a stay, from hanging to `now` or to being taken out.

    `log` rises in time, begins with the last reading before the stay, and may go on after it.
    """
    hung_at, now = stay
    asked = LogAsked.model_construct(
        atmosphere=atmosphere.id, log=list(log), hung_at=hung_at, now=now, policy=policy
    )
    told = serve(asked, atmosphere)
    own = told[policy]
    return Served(
        minutes=own["minutes"],
        least_minutes=told["least_minutes"],
        ready=told["ready"],
        ready_at=_moment(own["ready_at"]),
        due_at=_moment(own["due_at"]),
        counted_by="log",
        restart_minutes=told["restart"]["minutes"],
        subtract_minutes=told["subtract"]["minutes"],
        outside_minutes=told["minutes_outside"],
        unproven_minutes=told["minutes_unproven"],
        excursions=len(told["excursions"]),
    )


def _moment(told: str | None) -> datetime | None:
    return None if told is None else datetime.fromisoformat(told)


def asked_of(found: Atmosphere) -> AtmosphereAsked:
    """An atmosphere of the table in the words of the document."""
    return AtmosphereAsked(
        temperature_c=float(found.temperature_c),
        temperature_tolerance_c=float(found.temperature_tolerance_c),
        humidity_percent=found.humidity_percent,
        humidity_tolerance_percent=found.humidity_tolerance_percent,
        least_minutes=float(found.least_minutes),
    )


def weigh(asked: WeighingsAsked) -> dict[str, Any]:
    """Whether two weighings far enough apart agree, and which."""
    rows = asked.weighings
    for place, (row, after) in enumerate(pairwise(rows), start=2):
        if after[0] <= row[0]:
            raise Invalid(
                f"weighings: row {place}: time is not after the row before; "
                "times rise from row to row",
                field="time",
            )
    apart = timedelta(hours=asked.min_hours)
    against: datetime | None = None
    change: float | None = None
    earlier = -1
    for at, mass in rows:
        while earlier + 1 < len(rows) and rows[earlier + 1][0] <= at - apart:
            earlier += 1
        if earlier < 0:
            continue
        against, before = rows[earlier]
        change = 100 * abs(mass - before) / mass
        if at_least(asked.max_percent, change):
            return {
                "reached": True,
                "at": in_utc(at),
                "against": in_utc(against),
                "change_percent": change,
            }
    return {
        "reached": False,
        "at": None,
        "against": None if against is None else in_utc(against),
        "change_percent": change,
    }


def in_utc(moment: datetime) -> str:
    """ISO in UTC with Z, to the second."""
    rounded = (moment + timedelta(microseconds=500_000)).replace(microsecond=0)
    return rounded.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
