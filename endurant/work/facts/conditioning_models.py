"""Conditioning locations, the specimens in them and those that wait, as screens show them."""

from __future__ import annotations

from datetime import datetime

from endurant.work.base.view import View


class WeighingView(View):
    """One weighing."""

    at: datetime
    mass_g: float


class ConditioningSpecimen(View):
    """One specimen in an enclosure, with its weighings there."""

    specimen_id: int
    code: str
    label: str
    ready: bool
    counted_by: str
    weighings: list[WeighingView]
    equilibrium: str | None


class ConditioningGroup(View):
    """The specimens of one test that were placed together; `awaited` while a test needs them.

    Minutes are given under both rules. `runs_out_at` is when the time was or will be complete,
    None while the log proves nothing or is out of tolerance. `then` says what comes next.
    """

    job_id: int
    job_number: str
    product: str
    test: str
    placed_at: datetime
    runs_out_at: datetime | None
    ready: bool
    counted_by: str
    least_minutes: float
    minutes: float
    restart_minutes: float
    subtract_minutes: float
    outside_minutes: float
    unproven_minutes: float
    excursions: int
    counts: bool
    awaited: bool
    then: str
    specimens: list[ConditioningSpecimen]


class EnclosureView(View):
    """An enclosure and the specimens in it; `revision` changes when it is edited."""

    id: int
    name: str
    atmosphere: str
    capacity: int | None
    host: str | None
    port: int | None
    device: str | None
    revision: str
    set_point: str
    requested: str = ""
    requested_by: int | None = None
    temperature_c: float
    temperature_tolerance_c: float
    humidity_percent: float | None
    humidity_tolerance_percent: float | None
    least_minutes: float
    logged: bool
    simulated: bool
    line_message: str
    read_at: datetime | None
    reads: str
    in_tolerance: bool | None
    cautions: list[str]
    groups: list[ConditioningGroup]


class WaitingSpecimen(View):
    """One specimen that waits to be placed."""

    id: int
    label: str
    code: str


class EarlyView(View):
    """What has to be done to specimens before they are conditioned."""

    code: str
    title: str


class WaitingGroup(View):
    """Specimens of one test to be placed next in one atmosphere.

    `latest_at`: the moment by which that must be done, where there is one. `damp`: the sample
    came damp, so that the pre-conditioning cabinet is offered first. `early` is what is
    confirmed as they are placed.
    """

    job_id: int
    job_number: str
    product: str
    test: str
    atmosphere: str
    atmosphere_title: str
    enclosures: list[int]
    latest_at: datetime | None
    damp: bool
    early: list[EarlyView]
    specimens: list[WaitingSpecimen]


class ConditioningView(View):
    """The conditioning screen: the specimens in each room, and those that wait.

    `atmospheres` are those an enclosure may have, by their ids.

    The most urgent that wait come first; `waiting_more` groups are not among them.
    """

    now: datetime
    policy: str
    atmospheres: dict[str, str]
    enclosures: list[EnclosureView]
    waiting: list[WaitingGroup]
    waiting_more: int


class ClockView(View):
    """One tape of the clock rail; `leads_to` is the path of the screen it belongs to."""

    kind: str
    text: str
    whose: str
    starts_at: datetime
    ends_at: datetime
    when_missed: str
    leads_to: str


class ClockSetView(View):
    """That the clock of the server was set, and what that means to running clocks."""

    at: datetime
    text: str


class ClocksView(View):
    """All running clocks with the server's time, so that a wrong clock at a desk does no harm.

    `clock_set` tells that the server's own clock was set within the last day.
    """

    now: datetime
    clocks: list[ClockView]
    clock_set: ClockSetView | None
