"""From a pull to stress and strain: modulus, toe, strength, yield, break."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.curve import first_index, first_reach
from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.guide import Guide
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import Pull, PullParameters, begin_pull, cross_section
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.quantities import SAME_WITHIN, above
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples, find_maxima

SETTLED, NEARLY_SETTLED, MAX_ROUNDS = 1e-9, 1e-6, 50
FEWEST_IN_WINDOW = 3
MODULUS_TOLERANCE = 0.10

Window = Annotated[list[NotNegative], Field(min_length=2, max_length=2)]


class StressParameters(PullParameters):
    """Parameters of the methods that give a modulus."""

    specimens_wanted: int = requested(5)
    modulus_rule: Literal["chord", "regression"] = Field(
        "chord", description="Line through two strains, or least squares between them."
    )
    modulus_window: Window = Field(
        default=[0.0005, 0.0025], description="The two strains, as fractions, from the zero."
    )
    toe_compensation: bool = Field(
        False, strict=True, description="Count strain from where the straight part meets zero."
    )
    yield_prominence: float = Field(
        0.01, strict=True, gt=0, le=1, description="Least drop after a yield, of the strength."
    )
    reference_modulus_mpa: Positive | None = Field(
        None, description="Modulus expected; more than 10 % off is questioned."
    )

    @model_validator(mode="after")
    def _window_rises(self) -> Self:
        if self.modulus_window[0] >= self.modulus_window[1]:
            raise complaint("modulus.window")
        return self


@dataclass(frozen=True)
class Line:
    """The straight part: slope in MPa, and the strain at which it meets zero stress."""

    slope: float
    shift: float
    first: tuple[float, float]
    second: tuple[float, float]


@dataclass(frozen=True)
class StressStrain:
    """A pull in stress (MPa) and strain (counted from the toe-corrected zero)."""

    pull: Pull
    area_mm2: float
    stress: Samples
    strain: Samples | None
    line: Line | None
    shift: float


def fit(
    strain: Samples, stress: Samples, rule: str, low: float, high: float, passed: Samples
) -> Line | None:
    """Return the line in MPa between two strains; None when it cannot be fitted or does not rise.

    `strain`, `stress` and `passed`, the running maximum of the strain up to the break, have shape
    (n,).
    """
    if rule == "chord":
        ends = []
        for level in (low, high):
            place = first_reach(strain, level)
            if place is None:
                return None
            ends.append((place.of(strain), place.of(stress)))
        (x1, y1), (x2, y2) = ends
        slope = (y2 - y1) / (x2 - x1) if x2 > x1 else 0.0
    else:
        slack = SAME_WITHIN * abs(high)
        if passed[-1] < high - slack:
            return None
        stop = int(np.searchsorted(passed, high + slack, side="right"))
        inside = strain[:stop] >= low - SAME_WITHIN * abs(low)
        x, y = strain[:stop][inside], stress[:stop][inside]
        if x.size < FEWEST_IN_WINDOW:
            return None
        x_mean, y_mean = float(x.mean()), float(y.mean())
        spread = float(np.sum((x - x_mean) ** 2))
        if spread == 0:
            return None
        slope = float(np.sum((x - x_mean) * (y - y_mean))) / spread
        x1, y1, x2 = x_mean, y_mean, high
        y2 = y1 + slope * (x2 - x1)
    if not slope > 0:
        return None
    return Line(slope, x1 - y1 / slope, (x1, y1), (x2, y2))


def settle(
    result: SpecimenResult, strain: Samples, stress: Samples, parameters: StressParameters
) -> Line | None:
    """Return the modulus line; with toe compensation fitted again until its zero stands still."""
    passed = np.maximum.accumulate(strain)
    low, high = parameters.modulus_window
    rounds = MAX_ROUNDS if parameters.toe_compensation else 1
    line, shift, move = None, 0.0, 0.0
    for _ in range(rounds):
        line = fit(strain, stress, parameters.modulus_rule, low + shift, high + shift, passed)
        if line is None:
            return None
        move, shift = abs(line.shift - shift), line.shift
        if move < SETTLED:
            break
    if parameters.toe_compensation and move >= NEARLY_SETTLED:
        result.flag("toe-not-settled", "warn", rounds=rounds, percent=100 * move)
    return line


def begin_stress(
    readings: Any,
    parameters: StressParameters,
    guide: Guide,
    properties: tuple[Property, ...],
    *,
    wants_extensometer: bool = True,
) -> tuple[SpecimenResult, StressStrain | None]:
    """Checks, area and the straight part; None, with every value lacking, without a force."""
    result, pull = begin_pull(readings, parameters, guide, wants_extensometer=wants_extensometer)
    area = cross_section(readings, parameters.area_rule)
    if pull is None:
        for requested in properties:
            result.lacks(requested.name, requested.unit)
        return result, None
    result.explain(
        "cross section at the start", area.formula, area.with_, f"{in_numbers(area.mm2)} mm²"
    )
    stress = pull.force_n / area.mm2
    line, shift, strain = None, 0.0, pull.strain
    if strain is not None:
        line = settle(result, strain[: pull.end + 1], stress[: pull.end + 1], parameters)
        if line is not None and parameters.toe_compensation:
            shift = line.shift
            strain = strain - shift
            result.explain(
                "toe: the straight part carried down to zero stress",
                "strain0 = e1 - s1 / modulus",
                f"{in_numbers(line.first[0])} - {in_numbers(line.first[1])} / "
                f"{in_numbers(line.slope)}",
                f"{in_numbers(100 * shift)} % is taken off every strain",
            )
    return result, StressStrain(pull, area.mm2, stress, strain, line, shift)


def give_modulus(
    result: SpecimenResult, stress_strain: StressStrain, parameters: StressParameters
) -> None:
    """Give the modulus in MPa, or the reason why there is none; compare it with the reference."""
    line = stress_strain.line
    if line is None:
        result.lacks("modulus", "MPa")
        if stress_strain.strain is not None:
            low, high = (100 * result for result in parameters.modulus_window)
            result.flag("modulus-not-available", "warn", min=low, max=high)
        return
    low, high = parameters.modulus_window
    result.give(
        "modulus",
        line.slope,
        "MPa",
        "slope through the points where the two strains are first reached"
        if parameters.modulus_rule == "chord"
        else "slope by least squares between the two strains",
        "(s2 - s1) / (e2 - e1)"
        if parameters.modulus_rule == "chord"
        else "sum of (e - mean e)(s - mean s) / sum of (e - mean e)²",
        f"strain {low:g} to {high:g}"
        + (f", counted from {in_numbers(stress_strain.shift)}" if stress_strain.shift else ""),
    )
    mark_line(result, stress_strain, "modulus", line.shift, line.second[1])
    reference = parameters.reference_modulus_mpa
    if reference is not None and above(abs(line.slope - reference), MODULUS_TOLERANCE * reference):
        result.flag("modulus-implausible", "warn", modulus_mpa=line.slope, expected_mpa=reference)


def mark_line(
    result: SpecimenResult, stress_strain: StressStrain, text: str, zero: float, stress: float
) -> None:
    """A line of the modulus' slope, from zero stress up, in the axes of the trace."""
    pull, line = stress_strain.pull, stress_strain.line
    if line is None or pull.strain is None:
        return
    strains = np.array([zero, zero + stress / line.slope])
    x = np.interp(strains, np.maximum.accumulate(pull.strain), pull.drawn_mm)
    ends = ((float(x[0]), 0.0), (float(x[1]), stress * stress_strain.area_mm2))
    result.marks.append(Mark("line", text, ends))


def give_point(
    result: SpecimenResult,
    stress_strain: StressStrain,
    names: tuple[str, str],
    text: str,
    index: int,
) -> None:
    """Stress and strain of one sample, marked on the trace."""
    stress_name, strain_name = names
    pull = stress_strain.pull
    result.give(
        stress_name,
        float(stress_strain.stress[index]),
        "MPa",
        text,
        "F / area",
        f"{in_numbers(float(pull.force_n[index]))} / {in_numbers(stress_strain.area_mm2)}",
    )
    result.marks.append(pull.point(text, index))
    if stress_strain.strain is None or pull.strain is None:
        result.lacks(strain_name, "%")
        return
    raw = float(pull.strain[index])
    result.give(
        strain_name,
        100 * float(stress_strain.strain[index]),
        "%",
        f"strain there: {text}",
        "100 · (strain - toe)",
        f"100 · ({in_numbers(raw)} - {in_numbers(stress_strain.shift)})",
    )


def yield_index(stress_strain: StressStrain, prominence: float) -> int | None:
    """Return the first prominent maximum of stress before the break; None without one."""
    stress = stress_strain.stress[: stress_strain.pull.end + 1]
    tops = find_maxima(stress, prominence * float(stress_strain.stress[stress_strain.pull.top]))
    tops = tops[stress[tops] > 0]
    return int(tops[0]) if tops.size else None


def give_yield(
    result: SpecimenResult, stress_strain: StressStrain, index: int | None, text: str
) -> None:
    """Give stress in MPa and strain in % at the yield point, or the flag `no-yield`."""
    if index is None:
        result.lacks("yield_stress", "MPa")
        result.lacks("yield_strain", "%")
        result.flag("no-yield", "note")
        return
    give_point(result, stress_strain, ("yield_stress", "yield_strain"), text, index)


def give_strength(result: SpecimenResult, stress_strain: StressStrain) -> None:
    """Give the highest stress in MPa and its strain in %."""
    names = ("tensile_strength", "strain_at_strength")
    give_point(result, stress_strain, names, "highest stress", stress_strain.pull.top)


def give_break(result: SpecimenResult, stress_strain: StressStrain) -> None:
    """Give stress in MPa and strain in % at the break."""
    names = ("stress_at_break", "strain_at_break")
    give_point(result, stress_strain, names, "break", stress_strain.pull.end)


def offset_yield(stress_strain: StressStrain, offset: float) -> tuple[float, float] | None:
    """Return stress (MPa) and strain where the curve first meets the line shifted by `offset`."""
    if stress_strain.line is None or stress_strain.strain is None:
        return None
    stop = stress_strain.pull.end + 1
    strain, stress = stress_strain.strain[:stop], stress_strain.stress[:stop]
    if stress_strain.shift == 0:
        strain = strain - stress_strain.line.shift
    over = stress - stress_strain.line.slope * (strain - offset)
    index = first_index(over <= SAME_WITHIN * np.abs(stress))
    if index is None or index == 0:
        return None
    share = float(over[index - 1] / (over[index - 1] - over[index]))
    share = min(max(share, 0.0), 1.0)
    at_stress = float(stress[index - 1] + share * (stress[index] - stress[index - 1]))
    at_strain = float(strain[index - 1] + share * (strain[index] - strain[index - 1]))
    return at_stress, at_strain


STRESS_PROPERTIES = (
    Property("modulus", "Modulus", "MPa", significant=3),
    Property("tensile_strength", "Tensile strength", "MPa", significant=3),
    Property("strain_at_strength", "Strain at strength", "%", significant=2),
    Property("yield_stress", "Yield stress", "MPa", significant=3),
    Property("yield_strain", "Yield strain", "%", significant=2),
    Property("stress_at_break", "Stress at break", "MPa", significant=3),
    Property("strain_at_break", "Strain at break", "%", significant=2),
)
