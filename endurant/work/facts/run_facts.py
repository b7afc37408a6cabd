"""What a run was made under, as it is stored with it and said in the report."""

from __future__ import annotations

from datetime import datetime

from pydantic import AliasChoices, BaseModel, ConfigDict, Field, JsonValue

from endurant.core.departures import Departure


class Facts(BaseModel):
    """Read only; stored as JSON."""

    model_config = ConfigDict(frozen=True)


class PeriodFacts(Facts):
    """One conditioning period, in minutes; runs of earlier releases have older names."""

    enclosure: str
    atmosphere: str
    set_point: str = ""
    placed_at: datetime = Field(validation_alias=AliasChoices("placed_at", "hung_at", "from"))
    until: datetime = Field(validation_alias=AliasChoices("until", "to"))
    minutes: float
    least_minutes: float
    is_complete: bool = Field(validation_alias=AliasChoices("is_complete", "served"))
    counted_by: str
    restart_minutes: float
    subtract_minutes: float
    outside_minutes: float
    unproven_minutes: float
    excursions: int


class ConditioningFacts(PeriodFacts):
    """The last conditioning period before the run, and all of them."""

    periods: list[PeriodFacts] = Field(
        default_factory=list, validation_alias=AliasChoices("periods", "stays")
    )


class InstrumentFacts(Facts):
    """The station and instrument of a run, with the calibration that was in force."""

    station: str
    simulated: bool
    name: str
    serial: str
    capacity_n: float
    certificate: str
    calibrated_at: datetime
    calibration_due_at: datetime


class CheckFacts(Facts):
    """One item of the ready check as it was gone through."""

    code: str
    title: str
    says: str
    by: str


NO_REASON = "not given"
"""The reason of a deviation that nobody explained."""


class DeviationFacts(Facts):
    """A departure from the method as it was recorded, with the reason of the person."""

    code: str
    says: str
    why: str
    params: dict[str, JsonValue] = Field(default_factory=dict)


def deviation_of(departure: Departure, why: str | None) -> DeviationFacts:
    """Return what is recorded of a departure and its reason."""
    return DeviationFacts(
        code=departure.code,
        says=departure.text,
        why=why or NO_REASON,
        params=departure.message.plain_params(),
    )


class RoomFacts(Facts):
    """The air at the station as the nearest logger read it last, and how it departs."""

    room: str
    at: datetime | None = None
    temperature_c: float | None = None
    humidity_percent: float | None = None
    departs: str = ""


class SupervisorFacts(Facts):
    """Under whom a trainee tested."""

    id: int
    name: str


class OutFacts(Facts):
    """How long a specimen was out of its enclosure before it was tested, and at most how long."""

    minutes: float
    most_minutes: float
    too_long: bool


class SupplyFacts(Facts):
    """A lot that was used, and how many specimens it had done with this one."""

    kind: str
    lot: str
    count: int


class GaugeFacts(Facts):
    """A gauge, or the station's own device, that a value was read off."""

    reading: str
    name: str
    serial: str


class RunSettings(Facts):
    """Everything that a run was made under.

    `setup` is what the device was set to, each with its unit in its name; runs of earlier
    releases have speed, gauge length and travel of the frame beside it.
    """

    setup: dict[str, float | str] = Field(default_factory=dict)
    speed_mm_min: float | None = None
    gauge_length_mm: float | None = None
    end_mm: float | None = None
    conditioning: ConditioningFacts | None = None
    instrument: InstrumentFacts | None = None
    deviations: list[DeviationFacts] = Field(default_factory=list)
    room: RoomFacts | None = None
    out: OutFacts | None = None
    under: SupervisorFacts | None = None
    supplies: list[SupplyFacts] = Field(default_factory=list)
    gauges: list[GaugeFacts] = Field(default_factory=list)
