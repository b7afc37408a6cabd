"""Pendulum impact on bars: energy for the broken section, told apart by how it broke."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from endurant.core.fields import NotNegative, Number, Positive
from endurant.core.messages import Message
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import (
    Advice,
    Age,
    Blank,
    Demand,
    Guide,
    InnerMark,
    Measure,
    Observation,
    ReadyCheck,
    SwingGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import WAYS, Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import COLD, FRAGMENTS, LOCAL, PENDULUM
from endurant.core.methods.summary import SummaryRow, groups_of, row_of, text_row
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

MIN_SHARE = 0.10
BREAKS = {"C": "complete", "H": "hinge", "P": "partial", "N": "no break"}

Pendulums = Annotated[list[Positive], Field(min_length=1, max_length=50)]


class ImpactParameters(Parameters):
    """Parameters of the notched or plain bar."""

    set_up: ClassVar[tuple[str, ...]] = (
        "pendulum_j",
        "friction_j",
        "pendulums_j",
    )

    pendulum_j: Positive = Field(description="Energy of the pendulum.")
    friction_j: NotNegative = Field(description="Energy lost in a free swing.")
    notch: Literal["A", "B", "C", "none"] = Field("A", description="Notch, or none.")
    rest_h: NotNegative = Field(16, description="Rest after notching.")
    soak_min: NotNegative = Field(30, description="Least time in the chamber.")
    temperatures_c: Annotated[list[Number], Field(max_length=12)] = Field(
        default=[], description="Temperatures that the bars are struck at; none: as the room is."
    )
    max_transfer_s: Positive = Field(5, description="Longest way from chamber to strike.")
    remaining_width_mm: Positive = Field(8.0, description="Width left under the notch.")
    remaining_width_tolerance_mm: NotNegative = Field(0.2, description="By how much it may be off.")
    pendulums_j: Pendulums = Field(
        default=[1.0, 2.75, 5.5, 11.0, 22.0], description="Pendulums to choose from."
    )

    def max_share(self) -> float:
        """Largest part of the pendulum that a reading may be."""
        return 0.80


class CharpyParameters(ImpactParameters):
    """The same with the pendulums of Charpy's frame."""

    pendulums_j: Pendulums = Field(
        default=[0.5, 1.0, 2.0, 4.0, 5.0, 7.5, 15.0, 25.0, 50.0],
        description="Pendulums to choose from.",
    )


class D256Parameters(ImpactParameters):
    """The same for the wider bar, with a longer rest."""

    rest_h: NotNegative = Field(40, description="Rest after notching.")
    remaining_width_mm: Positive = Field(10.16, description="Width left under the notch.")
    remaining_width_tolerance_mm: NotNegative = Field(
        0.05, description="By how much it may be off."
    )

    def max_share(self) -> float:
        """Largest part of the pendulum that a reading may be."""
        return 0.85


class ImpactReadings(Readings):
    """One struck bar."""

    labels_of_codes: ClassVar[dict[str, dict[str, str]]] = {
        "break_type": {code: f"{code}, {text}" for code, text in BREAKS.items()}
    }

    energy_j: Positive = Field(description="Energy as read.")
    break_type: Literal["C", "H", "P", "N"] = Field(
        description="C complete, H hinge, P partial, N none."
    )
    transfer_s: NotNegative | None = Field(None, description="Way from the chamber.")
    soaked_min: NotNegative | None = Field(None, description="Time in the chamber.")
    rested_h: NotNegative | None = Field(None, description="Rest after notching.")
    temperature_c: Number | None = Field(None, description="Temperature of the bar.")


def bars(parameters: Mapping[str, Any]) -> Demand:
    """As many bars at each temperature as are wanted."""
    temperatures = parameters.get("temperatures_c") or []
    if len(temperatures) < 2:
        return Demand()
    text = ", ".join(in_numbers(each) for each in temperatures)
    return Demand(states=len(temperatures), text=f"bars at each of {text} °C")


def temperature_of_next(
    parameters: Mapping[str, Any], entries: Sequence[Mapping[str, Any]], _known: Mapping[str, Any]
) -> Advice:
    """Return which temperature is the turn of the next bar, where several are asked for."""
    temperatures = parameters.get("temperatures_c") or []
    if not temperatures:
        return Advice(())
    requested = int(parameters.get("specimens_wanted") or 10)
    done = [entry.get("temperature_c") for entry in entries]
    due = next((each for each in temperatures if done.count(each) < requested), temperatures[-1])
    return Advice((f"Bars at {in_numbers(due)} °C are due.",), {"temperature_c": due})


GUIDE = Guide(
    **guide_texts("iso-180"),
    count_per_direction=10,
    blank=Blank(
        outline="rectangle",
        long_mm=80,
        short_mm=10,
        inner_marks=(InnerMark("notch", ((5, -1), (3, 0), (5, 1))),),
        works_on="breaks across {yarns}",
    ),
    atmosphere="plastics-23-50",
    age=Age(
        "notching",
        16,
        24 * 365,
        parameter="rest_h",
        reading="rested_h",
        needed=True,
        when=lambda parameters: parameters.get("notch") != "none",
    ),
    bench="swing",
    demand=bars,
    advises=temperature_of_next,
    wears=("notch cutter",),
    live=SwingGuide(
        "energy_j",
        also=("break_type",),
        transfer=("max_transfer_s", "transfer_s"),
    ),
    measures=(
        Measure("thickness_mm", 3, span_mm=20, nominal_mm=4),
        Measure("remaining_width_mm", 2, span_mm=0.5, nominal_mm=8),
    ),
    ready_checks=(
        ReadyCheck(
            "pendulum",
            "Pendulum of {pendulum_j} J fitted",
            "a reading near either end of its scale does not count",
            set_up=True,
        ),
        ReadyCheck(
            "free-swing",
            "Friction of {friction_j} J read in a free swing today",
            "the friction is subtracted from every reading",
        ),
        ReadyCheck(
            "clamped-upright",
            "Bar clamped upright, notch level with the jaw and towards the blow",
            "a bar that leans or stands too high changes the strike",
        ),
        ReadyCheck("latched", "Pendulum latched before loading", "it falls by itself", hold=True),
        ReadyCheck(
            "plane-clear",
            "Everyone clear of the path of the pendulum",
            "it does not stop",
            hold=True,
        ),
    ),
    cautions=(PENDULUM, FRAGMENTS, COLD, LOCAL),
    observations=(
        Observation("struck-late", "Struck late", "void", "the bar was struck too late"),
        Observation("notch-damaged", "Notch damaged", "void", "its notch was damaged"),
    ),
)

CHARPY_GUIDE = replace(
    GUIDE,
    ready_checks=tuple(
        ReadyCheck(
            "against-anvils",
            "Bar flat against both anvils, notch in the middle and away from the blow",
            "a bar that is not on its anvils is struck twice",
        )
        if check.code == "clamped-upright"
        else check
        for check in GUIDE.ready_checks
    ),
    **guide_texts("iso-179-1"),
)

D256_GUIDE = replace(
    GUIDE,
    **guide_texts("astm-d256"),
    measures=(Measure("thickness_mm", 3, 20, 3.2), Measure("remaining_width_mm", 2, 0.5, 10.16)),
    blank=Blank(
        outline="rectangle",
        long_mm=63.5,
        short_mm=12.7,
        inner_marks=(InnerMark("notch", ((6.35, -1.2), (3.81, 0), (6.35, 1.2))),),
        works_on="breaks across {yarns}",
    ),
)


def analyse_iso(readings: ImpactReadings, parameters: ImpactParameters) -> SpecimenResult:
    """Return the impact strength of one Izod bar in kJ/m² (ISO 180).

    Raises Invalid for an energy outside the scale.
    """
    return _analyse(readings, parameters, GUIDE, per_width=False)


def analyse_charpy(readings: ImpactReadings, parameters: ImpactParameters) -> SpecimenResult:
    """Return the impact strength of one Charpy bar in kJ/m² (ISO 179-1)."""
    return _analyse(readings, parameters, CHARPY_GUIDE, per_width=False)


def analyse_d256(readings: ImpactReadings, parameters: ImpactParameters) -> SpecimenResult:
    """Return impact strength in kJ/m² and energy per width in J/m of one bar (ASTM D256)."""
    return _analyse(readings, parameters, D256_GUIDE, per_width=True)


def _analyse(
    readings: ImpactReadings, parameters: ImpactParameters, guide: Guide, *, per_width: bool
) -> SpecimenResult:
    result = begin(readings, guide)
    result.facts = {"temperature_c": readings.temperature_c, "break_type": readings.break_type}
    thick_mm = float(np.mean(readings.sections("thickness_mm")))
    left_mm = float(np.mean(readings.sections("remaining_width_mm")))
    energy_j, pendulum_j = readings.energy_j, parameters.pendulum_j
    if above(energy_j, pendulum_j):
        raise readings.refuse(
            "energy_j", "reading.energy-above-pendulum", energy_j=energy_j, pendulum_j=pendulum_j
        )
    if readings.break_type == "N":
        result.lacks("impact_strength", "kJ/m²")
        if per_width:
            result.lacks("impact_per_width", "J/m")
        result.flag("did-not-break", "note")
    else:
        corrected_j = energy_j - parameters.friction_j * (1 - energy_j / (2 * pendulum_j))
        if not corrected_j > 0:
            raise readings.refuse(
                "energy_j",
                "reading.energy-within-friction",
                energy_j=energy_j,
                friction_j=parameters.friction_j,
            )
        give_strength(result, readings, parameters, corrected_j, thick_mm, left_mm)
        if per_width:
            result.give(
                "impact_per_width",
                1000 * corrected_j / thick_mm,
                "J/m",
                "corrected energy for the thickness",
                "1000 · Ec / h",
                f"1000 · {in_numbers(corrected_j)} / {in_numbers(thick_mm)}",
            )
        flag_range(result, energy_j, parameters)
    flag_clocks(result, readings, parameters)
    notched = parameters.notch != "none"
    off_mm = abs(left_mm - parameters.remaining_width_mm)
    if notched and above(off_mm, parameters.remaining_width_tolerance_mm):
        result.flag(
            "remaining-width-out-of-tolerance",
            "warn",
            left_mm=left_mm,
            remaining_width_mm=parameters.remaining_width_mm,
            remaining_width_tolerance_mm=parameters.remaining_width_tolerance_mm,
        )
    return result


def give_strength(
    result: SpecimenResult,
    readings: ImpactReadings,
    parameters: ImpactParameters,
    corrected_j: float,
    thick_mm: float,
    left_mm: float,
) -> None:
    """Give the corrected energy in J over the section that broke, in kJ/m².

    `thick_mm` and `left_mm` are the thickness and the width left under the notch.
    """
    read, pendulum = in_numbers(readings.energy_j), in_numbers(parameters.pendulum_j)
    result.explain(
        "energy less the friction of the part of the swing",
        "Ec = E - friction · (1 - E / (2 · pendulum))",
        f"{read} - {in_numbers(parameters.friction_j)} · (1 - {read} / (2 · {pendulum}))",
        f"{in_numbers(corrected_j)} J",
    )
    result.give(
        "impact_strength",
        1000 * corrected_j / (thick_mm * left_mm),
        "kJ/m²",
        "corrected energy for the broken section",
        "1000 · Ec / (h · b)",
        f"1000 · {in_numbers(corrected_j)} / ({in_numbers(thick_mm)} · {in_numbers(left_mm)})",
    )


def outside_range(energy_j: float, pendulum_j: float, max_share: float) -> bool:
    """A reading outside the part of the pendulum that it is good for."""
    return above(MIN_SHARE * pendulum_j, energy_j) or above(energy_j, max_share * pendulum_j)


def flag_range(result: SpecimenResult, energy_j: float, parameters: ImpactParameters) -> None:
    """`outside-range`; which pendulum would suit is said once all bars are read."""
    upper = parameters.max_share()
    if outside_range(energy_j, parameters.pendulum_j, upper):
        percent = 100 * energy_j / parameters.pendulum_j
        result.flag(
            "outside-range",
            "warn",
            sentence="flag.outside-range.energy-percent",
            percent=percent,
            max=100 * upper,
        )


def flag_clocks(
    result: SpecimenResult, readings: ImpactReadings, parameters: ImpactParameters
) -> None:
    """`too-slow`, `rest-too-short`, `soak-too-short`."""
    transfer_s, rested_h, soaked_min = (
        readings.transfer_s,
        readings.rested_h,
        readings.soaked_min,
    )
    if transfer_s is not None and above(transfer_s, parameters.max_transfer_s):
        result.flag(
            "too-slow",
            "void",
            sentence="flag.too-slow.chamber",
            transfer_s=transfer_s,
            max_transfer_s=parameters.max_transfer_s,
        )
    notched = parameters.notch != "none"
    if notched and rested_h is not None and above(parameters.rest_h, rested_h):
        result.flag("rest-too-short", "void", rested_h=rested_h, rest_h=parameters.rest_h)
    if soaked_min is not None and above(parameters.soak_min, soaked_min):
        result.flag("soak-too-short", "void", soaked_min=soaked_min, soak_min=parameters.soak_min)


def suggest_pendulum(
    results: Sequence[SpecimenResult],
    readings: Sequence[ImpactReadings],
    parameters: ImpactParameters,
) -> None:
    """Say with each `outside-range` which pendulum suits the mean of the broken bars."""
    energies = [
        read.energy_j
        for result, read in zip(results, readings, strict=True)
        if result.valid and read.break_type != "N"
    ]
    if not energies:
        return
    mean_j, upper = float(np.mean(energies)), parameters.max_share()
    suited = [
        pendulum_j
        for pendulum_j in parameters.pendulums_j
        if not outside_range(mean_j, pendulum_j, upper)
    ]
    for figure in results:
        figure.flags = [
            replace(flag, message=_with_advice(flag.message, suited))
            if flag.code == "outside-range"
            else flag
            for flag in figure.flags
        ]


def _with_advice(message: Message, suited: Sequence[float]) -> Message:
    if suited:
        return message.within("flag.outside-range.use-pendulum", pendulum_j=max(suited))
    return message.within("flag.outside-range.no-pendulum")


def summarise(method: Method, results: Results, parameters: Any) -> list[SummaryRow]:
    """Return a row for each temperature and kind of break; bars that did not break are counted."""
    rows: list[SummaryRow | None] = []
    for requested in method.properties:
        for group in groups_of(results, "temperature_c", "break_type"):
            if group.facts["break_type"] != "N":
                rows.append(row_of(requested, group, parameters.rounding))
                continue
            n = sum(member.enters for member in group.members)
            rows.append(text_row(requested, "mean", group, n, "N") if n else None)
    return [row for row in rows if row is not None]


def review(results: Results, parameters: ImpactParameters) -> list[Flag]:
    """Too few valid, and kinds of break that mix."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    for group in groups_of(results, "temperature_c"):
        kinds = [member.facts["break_type"] for member in group.members if member.enters]
        if len(set(kinds)) > 1:
            counted = ", ".join(
                f"{kinds.count(kind)} {BREAKS[kind]}" for kind in BREAKS if kind in kinds
            )
            flags.append(
                Flag.of("mixed-break-types", "warn", group=group.in_words(), counts=counted)
            )
    return flags


def _method(
    method_id: str, title: str, parameters: Any, guide: Guide, analyse: Any, digits: int
) -> Method:
    per_width = (Property("impact_per_width", "Energy per width", "J/m", significant=digits),)
    return Method(
        id=method_id,
        title=title,
        family="Impact",
        properties=(
            Property("impact_strength", "Impact strength", "kJ/m²", significant=digits),
            *(per_width if guide is D256_GUIDE else ()),
        ),
        parameters=parameters,
        readings=ImpactReadings,
        guide=guide,
        analyse=analyse,
        also_directions=("flatwise", "edgewise", *WAYS),
        together=suggest_pendulum,
        summarise=summarise,
        review=review,
    )


METHODS = {
    "iso-180": _method("iso-180", "Izod impact", ImpactParameters, GUIDE, analyse_iso, 2),
    "iso-179-1": _method(
        "iso-179-1", "Charpy impact", CharpyParameters, CHARPY_GUIDE, analyse_charpy, 2
    ),
    "astm-d256": _method(
        "astm-d256", "Izod impact (D256)", D256Parameters, D256_GUIDE, analyse_d256, 3
    ),
}
