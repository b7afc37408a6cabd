"""A charge of melt: in within a minute, preheated, purged, cut or timed, then cleaned hot."""

from __future__ import annotations

from collections.abc import Mapping
from math import inf
from typing import Any

from endurant.core.bench.actions import Action, Timer
from endurant.core.bench.procedure import (
    Drawing,
    asks_for,
    by_hand,
    checks_of,
    holds_of,
    own_parameters,
    reading_facts,
)
from endurant.core.bench.series import series_of, turns_of
from endurant.core.bench.state import State
from endurant.core.bench.status import HEATED_WITHIN_C, STABILISE_MIN
from endurant.core.departures import Departure
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.guide import Ask
from endurant.core.methods.method import Method
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

CHARGING, PREHEAT, TOTAL = "charging", "preheat", "from-charge"
SENSORS = ("upper_c", "lower_c")
HOT = worded("step.hot-barrel-hot-die-fresh-melt-heat-proof")


class CutsProcedure:
    """One charge of the barrel."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """From the hot, clean barrel through its clocks to cleaning."""
        series = series_of(method)
        checks = checks_of(self, method, parameters)
        charge_s = float(parameters.get("max_charge_s") or 60)
        preheat_s = 60 * float(parameters.get("preheat_min") or 5)
        total_s = 60 * float(parameters.get("max_minutes_from_charge") or 25)
        tolerance_s = float(parameters.get("preheat_tolerance_s") or 30)
        return (
            _heated(parameters),
            _settled(parameters),
            *by_hand(checks),
            Action(
                code="charging",
                title=worded("step.charge-in-small-portions-and-tamp-out-the"),
                why=worded(
                    "step.finish-charging-within-s-every-other-time", charge_s=in_numbers(charge_s)
                ),
                button=worded("step.start-charging"),
                confirms=holds_of(checks),
                hold=True,
                caution=HOT,
                tells="charge",
                starts=Timer(
                    CHARGING, "Charging", "at-most", charge_s, within_s=0.0, fact="charge_s"
                ),
                also_starts=(
                    Timer(
                        PREHEAT,
                        "Preheat",
                        "exactly",
                        preheat_s,
                        tolerance_s,
                        fact="preheat_s",
                        holds=True,
                    ),
                    Timer(
                        TOTAL,
                        worded("step.from-charging"),
                        "at-most",
                        total_s,
                        0.0,
                        fact="finished_s",
                    ),
                ),
            ),
            Action(
                code="charged",
                title=worded("step.insert-the-piston-and-record-the-mass-of"),
                why=worded("step.the-temperature-drops-by-a-few-degrees"),
                button=worded("step.record-charge"),
                asks=asks_for(method, ("charge_g",), gauge="balance"),
                ends=CHARGING,
            ),
            Action(
                code="purged",
                title=worded("step.place-the-load-and-purge-to-the-lower"),
                why=worded("step.only-the-melt-between-the-two-marks-is"),
                button=worded("step.confirm-mark-at-barrel-top"),
                caution=HOT,
                tells="load",
                ends=PREHEAT,
                starts=_first_due(series.code, parameters),
                unattended_min=preheat_s / 60,
            ),
            *_trial(parameters),
            *turns_of(series, own_parameters(method, parameters), {}, HOT),
            Action(
                code="finished",
                title=worded("step.take-the-load-off"),
                why=worded(
                    "step.the-test-ends-within-min-of-charging", minutes=in_numbers(total_s / 60)
                ),
                button=worded("step.confirm-load-off"),
                ends=TOTAL,
            ),
            Action(
                code="cleaned",
                title=worded("step.clean-die-piston-and-barrel-while-they"),
                why=worded("step.cold-melt-sticks-and-changes-the-next"),
                button=worded("step.confirm-cleaned"),
                confirms={"cleaned": worded("step.die-piston-and-barrel-cleaned")},
                logs="cleaned",
                caution=HOT,
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was written down, and the clocks; the end in minutes from charging."""
        facts = reading_facts(method, state.facts)
        finished_s = state.facts.get("finished_s")
        if finished_s is not None:
            facts["finished_min"] = round(finished_s / 60, 2)
        return facts

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Temperature, load and interval."""
        names = ("temperature_c", "load_kg", "cut_interval_s")
        return {name: float(parameters[name]) for name in names if parameters.get(name)}


def _heated(parameters: Mapping[str, Any]) -> Action:
    temperature = in_numbers(float(parameters.get("temperature_c") or 0))
    return Action(
        code="heated",
        title=worded("step.set-the-barrel-to-c", temperature=temperature),
        why=worded(
            "step.the-barrel-stays-at-temperature-for-min",
            minutes=in_numbers(_stabilise_min(parameters)),
        ),
        button=worded("step.set-temperature"),
        caution=HOT,
        tells="heat",
    )


def _settled(parameters: Mapping[str, Any]) -> Action:
    """Both sensors and the time at temperature are recorded; what is off needs a reason."""
    target_c = float(parameters.get("temperature_c") or 0)
    stabilise_min = _stabilise_min(parameters)

    def departs(facts: Mapping[str, Any]) -> list[Departure]:
        departed = []
        shown = [float(facts[name]) for name in SENSORS if facts.get(name) is not None]
        off_c = max((each - target_c for each in shown), key=abs, default=0.0)
        if above(abs(off_c), HEATED_WITHIN_C):
            departed.append(
                Departure.of(
                    "barrel-temperature",
                    off_c=round(off_c, 1),
                    set_c=target_c,
                    allowed_c=HEATED_WITHIN_C,
                )
            )
        minutes = float(facts.get("settled_min") or 0)
        if above(stabilise_min, minutes):
            departed.append(
                Departure.of(
                    "barrel-not-settled", minutes=round(minutes, 1), required=stabilise_min
                )
            )
        return departed

    return Action(
        code="settled",
        title=worded("step.record-the-barrel-temperature"),
        why=worded("step.the-sensors-reach-the-set-point-long"),
        button=worded("step.record-temperature"),
        asks=(
            Ask("upper_c", worded("step.upper-sensor"), "°C", low=0.0, high=500.0),
            Ask("lower_c", worded("step.lower-sensor"), "°C", low=0.0, high=500.0),
            Ask("settled_min", worded("step.time-at-temperature"), "min", low=0.0, high=10_000.0),
        ),
        departs=departs,
        caution=HOT,
        unattended_min=stabilise_min,
    )


def _stabilise_min(parameters: Mapping[str, Any]) -> float:
    return float(parameters.get("stabilise_min") or STABILISE_MIN)


def _first_due(code: str, parameters: Mapping[str, Any]) -> Timer | None:
    """The clock of the first cut; nothing is said of one that is not kept."""
    interval_s = float(parameters.get("cut_interval_s") or 0)
    return (
        Timer(code, worded("step.first-cut"), "exactly", interval_s, within_s=inf)
        if interval_s
        else None
    )


def _trial(parameters: Mapping[str, Any]) -> tuple[Action, ...]:
    """A cut that does not count, from which interval and charge are proposed."""
    interval_s = parameters.get("cut_interval_s")
    if not interval_s:
        return ()
    return (
        Action(
            code="trial",
            title=worded("step.take-a-trial-cut"),
            why=worded("step.for-an-unknown-flow-rate-cut-when-the"),
            button=worded("step.take-trial-cut"),
            optional=True,
            asks=(
                Ask(
                    "trial_interval_s",
                    worded("step.time-since-the-last-cut"),
                    "s",
                    preset=interval_s,
                    low=0.5,
                ),
                Ask(
                    "trial_length_mm",
                    worded("step.length-of-the-trial"),
                    "mm",
                    gauge="caliper",
                    low=0.1,
                ),
                Ask(
                    "trial_mass_g",
                    worded("step.mass-of-the-trial"),
                    "g",
                    gauge="balance",
                    required=False,
                    low=0.0001,
                ),
            ),
        ),
    )
