"""What all melt flow has in common: clocks, good cuts, and the interval for a flow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from endurant.core.fields import NotNegative, Number, Positive, Strict
from endurant.core.methods.guide import (
    Advice,
    Ask,
    ReadyCheck,
    Turn,
    yes_or_no,
)
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.quantities import above, at_least
from endurant.core.rounding import in_numbers

MINUTES_10_S = 600
PISTON_AREA_CM2 = 0.711
FEWEST_CUTS = 3
AIM_MM = 15.0
"""How long a cut should be."""

IntervalTable = Literal["iso-older", "iso-newer", "astm"]

FLOWS = (0.1, 0.15, 0.4, 0.5, 1.0, 2.0, 3.5, 5.0, 10.0, 25.0)
INTERVALS_S: dict[str, tuple[int | None, ...]] = {
    "iso-older": (240, 240, 240, 120, 60, 60, 30, 30, 15, 5),
    "iso-newer": (240, 120, 40, 40, 20, 10, 10, 5, 5, 5),
    "astm": (None, 360, 360, 360, 180, 180, 60, 60, 30, 15),
}
CHARGES_G: dict[str, tuple[str, ...]] = {
    "iso-older": ("3-5", "3-5", "3-5", "4-5", "4-5", "4-5", "6-8", "6-8", "6-8", "6-8"),
    "iso-newer": ("3-5", "3-5", "4-6", "4-6", "4-6", "4-8", "4-8", "4-8", "4-8", "4-8"),
    "astm": ("", "2.5-3", "2.5-3", "2.5-3", "3-5", "3-5", "4-8", "4-8", "4-8", "4-8"),
}

CAUTIONS = (
    "Hot barrel, hot die, fresh melt: heat-proof gloves, sleeves and glasses; ventilate.",
    "Brass or wood on the bore, never steel.",
    "Local rules and the licensed practice of your site have precedence over this page.",
)

READY_CHECKS = (
    ReadyCheck("upright", "Barrel upright, die and bore clean", "a leaning piston rubs"),
    ReadyCheck(
        "load",
        "Load of {load_kg} kg, piston included, at hand",
        "the flow rate follows the load",
        set_up=True,
    ),
    ReadyCheck("gloves", "Heat-proof gloves, sleeves and glasses on", "melt spits", hold=True),
)

STEPS = (
    "Charge 3 to 8 g, by the flow that is expected, in small portions, tamping the air out each "
    "time, within 60 s. Write the mass down.",
    "Put the piston in; the temperature dips and comes back. Preheat 5 min from charging.",
    "Purge until the lower mark is at the top of the barrel; measure between the marks only.",
    "Finish within 25 min of charging.",
    "Clean hot and at once: die, piston, bore.",
)
PREHEAT_7_MIN = (
    "Put the piston in; the temperature dips and comes back. Preheat 7 min ± 30 s from charging."
)


class MeltParameters(Parameters):
    """Parameters that every melt flow has."""

    temperature_c: Number = Field(description="Barrel temperature.")
    load_kg: Positive = Field(description="Load on the piston, with the piston.")
    stabilise_min: Positive = Field(
        20, description="Time at temperature before the barrel is charged; 15 min at least."
    )
    max_charge_s: Positive = Field(60, description="Longest time for charging.")
    preheat_min: Positive = Field(5, description="Preheating, from charging.")
    preheat_tolerance_s: NotNegative = Field(30, description="By how much that may be off.")
    max_minutes_from_charge: Positive = Field(25, description="Time by which it is finished.")


class MeltReadings(Readings):
    """One charge and its clocks."""

    charge_g: Positive | None = Field(None, description="Mass of the charge.")
    charge_s: NotNegative | None = Field(None, description="Time taken for charging.")
    preheat_s: NotNegative | None = Field(None, description="Preheating, from charging.")
    finished_min: NotNegative | None = Field(None, description="End, from charging.")


class Cut(Strict):
    """One cut of the strand."""

    mass_g: Positive
    length_mm: Positive | None = None
    bubbles: bool = Field(False, strict=True)


Cuts = Annotated[list[Cut], Field(min_length=1, max_length=1000)]


def flag_clocks(result: SpecimenResult, readings: MeltReadings, parameters: MeltParameters) -> None:
    """`charged-late`, `preheat-out-of-window`, `finished-late`."""
    charge_s, preheat_s, finished_min = (
        readings.charge_s,
        readings.preheat_s,
        readings.finished_min,
    )
    if charge_s is not None and above(charge_s, parameters.max_charge_s):
        result.flag("charged-late", "warn", charge_s=charge_s, max_charge_s=parameters.max_charge_s)
    target_s = 60 * parameters.preheat_min
    if preheat_s is not None and above(abs(preheat_s - target_s), parameters.preheat_tolerance_s):
        result.flag(
            "preheat-out-of-window",
            "warn",
            preheat_s=preheat_s,
            required_s=target_s,
            preheat_tolerance_s=parameters.preheat_tolerance_s,
        )
    if finished_min is not None and above(finished_min, parameters.max_minutes_from_charge):
        result.flag(
            "finished-late",
            "warn",
            finished_min=finished_min,
            max_minutes_from_charge=parameters.max_minutes_from_charge,
        )


def good_cuts(result: SpecimenResult, cuts: Sequence[Cut], fewest: int) -> list[Cut]:
    """Return the cuts without bubbles; `too-few-cuts` when they are fewer than asked for."""
    good = [cut for cut in cuts if not cut.bubbles]
    if len(good) < fewest:
        result.flag("too-few-cuts", "void", count=len(good), all=len(cuts), min=fewest)
    return good


def spread_of(values: Sequence[float]) -> float:
    """Return the spread of values: (maximum - minimum) / mean."""
    return float((max(values) - min(values)) / np.mean(values))


STRAND = Ask("length_mm", "length of the strand", "mm", gauge="caliper", low=0.1)


def next_cut(
    parameters: Mapping[str, Any],
    cuts: Sequence[Any],
    length: Ask = STRAND,
    refuses: Callable[[Mapping[str, Any]], None] | None = None,
) -> Turn | None:
    """Cuts until there are enough without bubbles; `length` says what is measured of each."""
    needed = int(parameters.get("min_cuts") or 3)
    good = [cut for cut in cuts if not cut["bubbles"]]
    if len(good) >= max(needed, FEWEST_CUTS):
        return None
    interval = parameters.get("cut_interval_s")
    every = (
        f" Every {in_numbers(float(interval))} s, clean and close to the die." if interval else ""
    )
    return Turn(
        title=f"Cut {len(cuts) + 1}",
        why=f"{len(good)} good so far, {max(needed, FEWEST_CUTS)} needed.{every} Let it cool, then "
        "weigh it to 0.1 mg.",
        button="Record cut",
        asks=(
            Ask("mass_g", "mass", "g", gauge="balance", low=0.0001),
            length,
            replace(yes_or_no("bubbles", "Bubbles", "none", "bubbles"), preset="none"),
        ),
        every_s=float(interval or 0),
        refuses=refuses,
    )


def next_travel(parameters: Mapping[str, Any], travels: Sequence[Any]) -> Turn | None:
    """Travels of the piston between its marks."""
    if len(travels) >= FEWEST_CUTS:
        return None
    return Turn(
        title=f"Travel {len(travels) + 1} of {FEWEST_CUTS}",
        why="Between the two marks: the travel of the piston and the time it took.",
        button="Record travel",
        asks=(Ask("length_mm", "travel", "mm"), Ask("time_s", "time", "s")),
    )


def advise(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], facts: Mapping[str, Any]
) -> Advice:
    """Charge and interval for the flow of the last charge, or of a trial of this one."""
    interval_s = float(parameters.get("cut_interval_s") or 0)
    trial_s = float(facts.get("trial_interval_s") or interval_s)
    table = str(parameters.get("interval_table") or "iso-newer")
    length_mm, mass_g = facts.get("trial_length_mm"), facts.get("trial_mass_g")
    text = []
    proposes: dict[str, float] = {}
    if trial_s and length_mm:
        for_15_mm_s = round(trial_s * AIM_MM / float(length_mm), 1)
        text.append(
            f"Trial cut: {in_numbers(length_mm)} mm in {in_numbers(trial_s)} s. A cut of 15 mm "
            f"takes {in_numbers(for_15_mm_s)} s"
        )
        proposes["cut_interval_s"] = for_15_mm_s
    flow, whose = 0.0, ""
    if trial_s and mass_g:
        flow, whose = MINUTES_10_S * float(mass_g) / trial_s, "Flow rate of the trial"
    elif interval_s and entries:
        good = [cut["mass_g"] for cut in entries[-1].get("cuts", ()) if not cut.get("bubbles")]
        if good:
            flow = MINUTES_10_S * float(np.mean(good)) / interval_s
            whose = f"Flow rate of {entries[-1]['label']}"
    if whose:
        text.append(f"{whose}: {in_numbers(round(flow, 2))} g/10 min. {_asked_for(flow, table)}")
        due_s = interval_for(flow, table)
        if due_s is not None:
            proposes["cut_interval_s"] = float(due_s)
    if proposes.get("cut_interval_s") == interval_s:
        proposes = {}
    return Advice(tuple(text), proposes=proposes)


def _asked_for(flow: float, table: str) -> str:
    window, due_s = charge_for(flow, table), interval_for(flow, table)
    if window is None or due_s is None:
        return f"The table {table} has no interval for so low a flow rate"
    lower, upper = window
    return f"Charge {in_numbers(lower)} to {in_numbers(upper)} g and cut every {due_s} s"


def interval_for(flow: float, table: str) -> int | None:
    """Return cut interval in s for a flow in g/10 min; None below the table's first figure."""
    interval_s = None
    for low, interval in zip(FLOWS, INTERVALS_S[table], strict=True):
        if at_least(flow, low):
            interval_s = interval
    return interval_s


def charge_for(flow: float, table: str) -> tuple[float, float] | None:
    """Return the smallest and the largest charge in g for a flow in g/10 min.

    None below the first row of the table.
    """
    named = ""
    for low, grams in zip(FLOWS, CHARGES_G[table], strict=True):
        if at_least(flow, low):
            named = grams
    if not named:
        return None
    lower, upper = named.split("-")
    return float(lower), float(upper)


def flag_charge(result: SpecimenResult, readings: MeltReadings, flow: float, table: str) -> None:
    """`charge-not-for-this-flow` when the mass that was charged is not the table's."""
    window = charge_for(flow, table)
    if window is None:
        return
    lower, upper = window
    text = f"{in_numbers(lower)} to {in_numbers(upper)} g"
    result.explain(
        f"charge for this flow in the table {table}", "table", f"{in_numbers(flow)} g/10 min", text
    )
    charged = readings.charge_g
    if charged is not None and (above(lower, charged) or above(charged, upper)):
        result.flag("charge-not-for-this-flow", "warn", charged=charged, flow=flow, required=text)


def give_mfr_by_mass(
    result: SpecimenResult, name: str, cuts: Sequence[Cut], interval_s: float
) -> float:
    """Return mass-flow rate in g/10 min of the good cuts."""
    mean_g = float(np.mean([cut.mass_g for cut in cuts]))
    flow = MINUTES_10_S * mean_g / interval_s
    result.give(
        name,
        flow,
        "g/10 min",
        f"mean mass of {len(cuts)} cuts, for ten minutes",
        "600 · mean mass / interval",
        f"600 · {in_numbers(mean_g)} / {in_numbers(interval_s)}",
    )
    return flow
