"""A charge of melt: in within a minute, preheated, purged, cut or timed, then cleaned hot."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.picture import Columns, DeviceKind, Drawing, asks_for, by_hand, holds_of
from endurant.core.bench.procedure import Act, State, Timer
from endurant.core.bench.series import series_of, turns_of
from endurant.core.methods.guide import Ask
from endurant.core.methods.method import Method
from endurant.core.quantities import in_numbers

CHARGING, PREHEAT, TOTAL, SETTLE = "charging", "preheat", "from-charge", "settling"
SETTLE_S = 20 * 60.0
HOT = "Hot barrel, hot die, fresh melt: heat-proof gloves, sleeves and glasses; ventilate."


class CutsPicture:
    """One charge of the barrel."""

    device: DeviceKind | None = None

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """From the hot, clean barrel through its clocks to cleaning."""
        series = series_of(method)
        checks = method.guide.ready_checks
        charge_s = float(parameters.get("max_charge_s") or 60)
        preheat_s = 60 * float(parameters.get("preheat_min") or 5)
        total_s = 60 * float(parameters.get("max_minutes_from_charge") or 25)
        tolerance_s = float(parameters.get("preheat_tolerance_s") or 30)
        return (
            Act(
                code="heated",
                title="Set the barrel to its temperature",
                why=f"{in_numbers(float(parameters.get('temperature_c') or 0))} °C, and left alone "
                "for 20 min once it is there.",
                button="The barrel is set",
                caution=HOT,
                tells="heat",
            ),
            Act(
                code="settling",
                title="At its temperature? Then it is left alone for 20 min",
                why="The sensor is there long before the steel is. A barrel that was hot all day "
                "has settled.",
                button="It is there: the 20 min begin",
                optional=True,
                starts=Timer(SETTLE, "Settling", "at-least", SETTLE_S),
                unattended_min=SETTLE_S / 60,
            ),
            *by_hand(checks),
            Act(
                code="charging",
                title="Begin to charge: small portions, the air tamped out",
                why=f"In within {in_numbers(charge_s)} s; everything else counts from here.",
                button="Charging begins",
                confirms=holds_of(checks),
                hold=True,
                caution=HOT,
                tells="charge",
                ends=SETTLE,
                starts=Timer(
                    CHARGING, "Charging", "at-most", charge_s, within_s=0.0, fact="charge_s"
                ),
                also_starts=(
                    Timer(PREHEAT, "Preheat", "exactly", preheat_s, tolerance_s, fact="preheat_s"),
                    Timer(TOTAL, "From charging", "at-most", total_s, 0.0, fact="finished_s"),
                ),
            ),
            Act(
                code="charged",
                title="Piston in. How much was charged?",
                why="The reading dips by a few degrees, and comes back.",
                button="It is charged",
                asks=asks_for(method, ("charge_g",), gauge="balance"),
                ends=CHARGING,
            ),
            Act(
                code="purged",
                title="Preheated? Weight on, and purge to the lower mark",
                why="Measured is only between the two marks; what came before is put aside.",
                button="The mark is at the top of the barrel",
                caution=HOT,
                tells="load",
                ends=PREHEAT,
            ),
            *_trial(parameters),
            *turns_of(series, parameters, {}, HOT),
            Act(
                code="finished",
                title="The last one? Weight off",
                why=f"Finished within {in_numbers(total_s / 60)} min of charging.",
                button="It is finished",
                ends=TOTAL,
            ),
            Act(
                code="cleaned",
                title="Clean hot and at once: die, piston, barrel",
                why="Cold melt sticks, and the next flow is another. Brass or wood, never steel.",
                button="Die, piston and barrel are clean",
                confirms={"cleaned": "Die, piston and barrel cleaned"},
                logs="cleaned",
                caution=HOT,
            ),
        )

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """What was written down, and the clocks; the end in minutes from charging."""
        facts = dict(state.facts)
        for name in ("trial_length_mm", "trial_mass_g"):
            facts.pop(name, None)
        finished_s = facts.pop("finished_s", None)
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


def _trial(parameters: Mapping[str, Any]) -> tuple[Act, ...]:
    """A cut that counts for nothing, from which the interval is proposed."""
    if not parameters.get("cut_interval_s"):
        return ()
    return (
        Act(
            code="trial",
            title="A trial cut",
            why="Of an unknown flow: cut after the interval that is set, measure and weigh it.",
            button="A trial cut first",
            optional=True,
            asks=(
                Ask("trial_length_mm", "length of the trial", "mm", gauge="caliper"),
                Ask("trial_mass_g", "mass of the trial", "g", gauge="balance", required=False),
            ),
        ),
    )
