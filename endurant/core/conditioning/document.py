"""The conditioning document: did a specimen serve its time, by its enclosure's log or by weight."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, PlainValidator

from endurant.core.bounds import refuse_what_is_not_finite
from endurant.core.complaints import complaint
from endurant.core.conditioning.atmospheres import Atmosphere, find_atmosphere
from endurant.core.conditioning.excursions import excursions
from endurant.core.conditioning.periods import (
    Counted,
    LogRules,
    Policy,
    Reading,
    Tally,
    stretches_of,
)
from endurant.core.conditioning.weighing import equilibrium
from endurant.core.fields import NotNegative, Number, Positive, Strict
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid


def _as_moment(given: Any) -> datetime:
    """An ISO time with Z or an offset, in UTC."""
    if isinstance(given, datetime) and given.tzinfo is not None:
        return given.astimezone(UTC)
    refused = complaint("conditioning.not-a-time", given=given)
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


class AtmosphereRequest(Strict):
    """Set point, tolerances and min time; no humidity when it is null."""

    temperature_c: Number
    temperature_tolerance_c: NotNegative
    humidity_percent: Percent | None = None
    humidity_tolerance_percent: NotNegative | None = None
    least_minutes: Positive


class LogRequest(Strict):
    """A conditioning period with its log."""

    columns: ClassVar = {"log": ("time", "temperature_c", "humidity_percent")}

    kind: Literal["conditioning"] = "conditioning"
    atmosphere: str | AtmosphereRequest
    log: Annotated[list[tuple[Moment, Temperature, Percent | None]], Field(max_length=2_000_000)]
    hung_at: Moment
    now: Moment
    policy: Policy = "restart"
    max_gap_min: Positive = 15
    max_outside_percent: Percent = 5


class WeighingsRequest(Strict):
    """Weighings of a specimen."""

    columns: ClassVar = {"weighings": ("time", "mass_g")}

    kind: Literal["conditioning"] = "conditioning"
    weighings: Annotated[list[tuple[Moment, Mass]], Field(min_length=1, max_length=100_000)]
    min_hours: Positive = 2
    max_percent: NotNegative = 0.25


def condition_document(data: Any) -> dict[str, Any]:
    """Return the answer to a conditioning document, times in min; raises Invalid."""
    if not isinstance(data, dict):
        raise Invalid("conditioning.document-shape")
    if "weighings" in data:
        answer = weigh(read_model(WeighingsRequest, data, "conditioning"))
    else:
        answer = serve(read_model(LogRequest, data, "conditioning"))
    refuse_what_is_not_finite(answer, "conditioning")
    return answer


def serve(request: LogRequest) -> dict[str, Any]:
    """Return what a log proves of a conditioning period in min, under both rules for excursions."""
    if request.now < request.hung_at:
        raise Invalid("conditioning.now-before-start", field="now")
    rules = LogRules(_atmosphere_of(request), request.max_gap_min, request.max_outside_percent)
    check_log(request.log, rules.atmosphere)
    stretches = stretches_of(request.log, (request.hung_at, request.now), rules)
    tally = Tally(request.hung_at)
    for stretch in stretches:
        tally = tally.with_stretch(stretch, rules)
    counted = Counted(tally, request.now, rules.atmosphere.least_minutes)
    school = counted.school(request.policy)
    return {
        "least_minutes": float(counted.least_minutes),
        "minutes_in_tolerance": tally.inside_minutes,
        "minutes_outside": tally.outside_minutes,
        "minutes_unproven": tally.unproven_minutes,
        "excursions": [
            {
                "from": in_utc(excursion.start),
                "to": None if excursion.end is None else in_utc(excursion.end),
                "minutes": excursion.minutes,
                "worst_temperature_c": excursion.worst_temperature_c,
                "worst_humidity_percent": excursion.worst_humidity_percent,
            }
            for excursion in excursions(stretches, rules.atmosphere)
        ],
        "gaps": [
            {
                "from": in_utc(stretch.start),
                "to": in_utc(stretch.end),
                "minutes": stretch.minutes,
            }
            for stretch in stretches
            if stretch.gap
        ],
        "restart": _school_in_words(counted, "restart"),
        "subtract": _school_in_words(counted, "subtract"),
        "policy": request.policy,
        "ready": counted.is_ready(request.policy),
        "minutes_left": max(counted.least_minutes - school.minutes, 0.0),
    }


def _school_in_words(counted: Counted, policy: Policy) -> dict[str, Any]:
    ready_at, due_at = counted.ready_at(policy), counted.due_at(policy)
    return {
        "minutes": counted.school(policy).minutes,
        "ready": counted.is_ready(policy),
        "ready_at": None if ready_at is None else in_utc(ready_at),
        "due_at": None if due_at is None else in_utc(due_at),
    }


def _atmosphere_of(request: LogRequest) -> Atmosphere:
    if isinstance(request.atmosphere, str):
        return find_atmosphere(request.atmosphere)
    return Atmosphere(id="asked", title="", **request.atmosphere.model_dump())


def check_log(log: Sequence[Reading], atmosphere: Atmosphere) -> None:
    """Raise Invalid for readings out of order or without a humidity that the atmosphere has."""
    for place, (row, after) in enumerate(pairwise(log), start=2):
        if after[0] <= row[0]:
            raise Invalid(
                "conditioning.log-time-not-rising", place=place, time=in_utc(after[0]), field="time"
            )
    if atmosphere.humidity_percent is not None:
        for place, row in enumerate(log, start=1):
            if row[2] is None:
                raise Invalid(
                    "conditioning.log-humidity-missing", place=place, field="humidity_percent"
                )


def weigh(request: WeighingsRequest) -> dict[str, Any]:
    """Return whether two weighings far enough apart agree, and which; masses in g (ISO 139)."""
    for place, (row, after) in enumerate(pairwise(request.weighings), start=2):
        if after[0] <= row[0]:
            raise Invalid("conditioning.weighing-time-not-rising", place=place, field="time")
    reached = equilibrium(request.weighings, request.min_hours, request.max_percent)
    return {
        "reached": reached.reached,
        "at": None if reached.at is None else in_utc(reached.at),
        "against": None if reached.against is None else in_utc(reached.against),
        "change_percent": reached.change_percent,
    }


def in_utc(moment: datetime) -> str:
    """Return a moment in ISO 8601, in UTC with a Z, to the second."""
    rounded = (moment + timedelta(microseconds=500_000)).replace(microsecond=0)
    return rounded.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
