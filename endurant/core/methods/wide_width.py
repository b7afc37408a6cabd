"""Wide-width tension of geotextiles, and of geogrids by their ribs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from endurant.core.curve import first_reach
from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.checks import rate_flag
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, Measure, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    Pull,
    PullParameters,
    PullReadings,
    begin_pull,
    grip_separation,
    review_pull,
    rising_ends,
    speed_between,
)
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, HOT_KNIFE, LOCAL, PINCH, SNAP, frame_checks
from endurant.core.methods.summary import groups_of
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples

Strains = Annotated[list[Positive], Field(min_length=1, max_length=20)]


Modulus = Literal["initial", "offset", "secant"]


class WideParameters(PullParameters):
    """Parameters of both wide pulls."""

    specimens_wanted: int = requested(6)
    secant_strains_percent: Strains = Field(
        default=[1.0, 2.0, 5.0], description="Strains at which the secant stiffness is taken."
    )
    rate_percent_per_min: Positive = Field(
        10, description="Crosshead speed in percent of the grip separation per minute."
    )
    rate_tolerance_percent: Positive = Field(3, description="By how much that rate may be off.")
    pretension_percent: Positive = Field(
        1, description="Pretension in percent of the breaking force, where it is not given in N."
    )
    pretension_least_n: NotNegative | None = Field(
        None, description="Least pretension that follows from the percentage."
    )
    pretension_most_n: Positive | None = Field(
        None, description="Largest pretension that follows from the percentage."
    )

    moduli: Annotated[list[Modulus], Field(max_length=3)] = Field(
        default=[], description="Tensile moduli to be reported beside the secant stiffness."
    )
    secant_modulus_percent: Positive = Field(
        5, description="Strain to which the secant modulus is taken."
    )

    def pretension_from(self, max_force_n: float) -> float:
        """Return the pretension in N that follows from a breaking force."""
        share_n = self.pretension_percent / 100 * max(max_force_n, 0.0)
        min_n, max_n = self.pretension_least_n or 0.0, self.pretension_most_n
        return max(min_n, share_n if max_n is None else min(share_n, max_n))


class GeotextileParameters(WideParameters):
    """Parameters of the wide-width pull of a geotextile."""

    gauge_length_mm: Positive | None = Field(100, description="Length extension is divided by.")
    construction: Literal["nonwoven", "woven", "strong-woven"] = Field(
        "woven", description="How it is made; yarns of a strong woven fray when they are sheared."
    )


class WideReadings(PullReadings):
    """One wide specimen; a pilot finds the pretension and enters no statistics."""

    pilot: bool = Field(False, strict=True, description="Pulled to find the pretension.")


class GridReadings(WideReadings):
    """One geogrid specimen and its ribs."""

    ribs_tested: Positive = Field(description="Whole ribs that carry the force.")
    ribs_per_metre: Positive = Field(description="Ribs in a metre of the product.")


ROLLER_LONG_MM = 1300


def for_rollers(blank: Blank, parameters: Mapping[str, Any]) -> Blank:
    """Wrapped around rollers a specimen is far longer than between faces."""
    has_rollers = "roller" in str(parameters.get("grips") or "").lower()
    return replace(blank, long_mm=ROLLER_LONG_MM) if has_rollers else blank


SHEARED = Blank(
    outline="rectangle",
    long_mm=300,
    short_mm=200,
    inner_marks=(
        InnerMark("grip line", ((-100, -50), (100, -50))),
        InnerMark("grip line", ((-100, 50), (100, 50))),
    ),
    works_on="stretches {yarns}",
    selvedge_margin_mm=50,
    selvedge_share=0.1,
    stagger="lengthwise",
)

GEOTEXTILE_GUIDE = Guide(
    **guide_texts("astm-d4595"),
    count_per_direction=6,
    blank=SHEARED,
    cut_by="construction",
    resized=for_rollers,
    blanks={"strong-woven": replace(SHEARED, hot_knife=True)},
    atmosphere="geo-21-65",
    bench="trace",
    live=FrameGuide(
        travel_mm=150,
        usual_speed_mm_min=10,
        usual_start_mm=100,
        usual_max_n=15_000,
        pilot=True,
        force_first=True,
        extensometer=True,
        off_past_peak=0.05,
    ),
    measures=(Measure("width_mm", 3, span_mm=80, nominal_mm=200),),
    ready_checks=frame_checks(
        ReadyCheck(
            "cut-straight",
            "Cut along the yarns, both edges on the same yarn from grip to grip",
            "in a strong woven the straightness of the cut decides the result",
        ),
        ReadyCheck(
            "grips-for-strength",
            "Faces for its strength: flat or wedge with padding, rollers for strong ones",
            "grips must neither slip nor start the break",
            set_up=True,
        ),
        ReadyCheck(
            "extensometer-tethered",
            "Clip-on extensometer tethered",
            "the break would throw the extensometer; remove it after the peak",
        ),
        force_first=True,
    ),
    cautions=(PINCH, SNAP, BLADES, HOT_KNIFE, LOCAL),
    observations=OBSERVATIONS,
)

GRID_GUIDE = replace(
    GEOTEXTILE_GUIDE,
    live=FrameGuide(
        travel_mm=150,
        usual_speed_mm_min=10,
        usual_start_mm=200,
        usual_max_n=3000,
        pilot=True,
        force_first=True,
        extensometer=True,
        off_past_peak=0.05,
    ),
    **guide_texts("astm-d6637"),
    blank=Blank(
        outline="rectangle",
        long_mm=400,
        short_mm=200,
        works_on="stretches {yarns} ribs",
        selvedge_margin_mm=50,
        selvedge_share=0.1,
        stagger="lengthwise",
    ),
    measures=(),
    needs=lambda _: ("gauge_length_mm",),
    ready_checks=frame_checks(
        ReadyCheck(
            "outer-ribs-cut",
            "Outer ribs cut away, so that only whole ribs carry",
            "a step easily forgotten: half a rib carries and is not counted",
        ),
        ReadyCheck(
            "cross-ribs",
            "Three cross ribs at least between the grips",
            "with fewer the grips decide where it breaks",
        ),
        ReadyCheck(
            "extensometer-tethered",
            "Clip-on extensometer tethered",
            "the break would throw the extensometer; remove it after the peak",
        ),
        force_first=True,
    ),
    cautions=(PINCH, SNAP, BLADES, LOCAL),
    cut_by="",
    blanks={},
)


def analyse_geotextile(readings: WideReadings, parameters: WideParameters) -> SpecimenResult:
    """Return strength in kN/m, elongation in % and stiffness in kN/m of one specimen.

    Sources: ISO 10319, ASTM D4595.
    """
    return _analyse(readings, parameters, parameters.pretension_n)


def _analyse(
    readings: WideReadings, parameters: WideParameters, pretension_n: float | None
) -> SpecimenResult:
    """One specimen at a pretension; None takes 1 % of its own maximum."""
    grid = isinstance(readings, GridReadings)
    own_n = parameters.pretension_from(float(readings.trace.force_n.max()))
    result, pull = begin_pull(
        readings,
        parameters,
        GRID_GUIDE if grid else GEOTEXTILE_GUIDE,
        pretension_n=own_n if pretension_n is None else pretension_n,
        speed_checked=False,
    )
    if readings.pilot:
        result.flag("pilot", "note")
        result.counts = False
    if pull is None:
        for requested in properties_of(parameters, grid):
            result.lacks(requested.name, requested.unit)
        return result
    flag_rate(result, readings, parameters)
    per_width = strength(result, readings, pull)
    if pull.strain is None:
        result.lacks("elongation_at_max", "%")
        for percent in parameters.secant_strains_percent:
            result.lacks(secant_name(percent), "kN/m")
        return result
    at_max = float(pull.strain[pull.top])
    result.give(
        "elongation_at_max",
        100 * at_max,
        "%",
        "strain at the highest force, from the pretension",
        "100 · strain",
        f"100 · {in_numbers(at_max)}",
    )
    result.marks.append(pull.point("highest force", pull.top))
    stiffness(result, parameters, pull, per_width)
    give_moduli(result, parameters, pull, per_width)
    return result


def flag_rate(result: SpecimenResult, readings: WideReadings, parameters: WideParameters) -> None:
    """`rate-out-of-tolerance` when the rate in percent per minute is off."""
    trace = readings.trace
    if trace.time_s is None:
        return
    start, end = rising_ends(trace.force_n)
    speed = speed_between(trace, start, end) if end > start else None
    if speed is None:
        return
    rate = 100 * speed / grip_separation(readings, parameters)
    if above(abs(rate - parameters.rate_percent_per_min), parameters.rate_tolerance_percent):
        result.flags.append(rate_flag(rate, parameters.rate_percent_per_min, "% per minute"))


def strength(result: SpecimenResult, readings: WideReadings, pull: Pull) -> float:
    """Give the strength in kN/m; return the kN/m that one newton of this specimen is worth."""
    force_n = pull.max_force_n
    if isinstance(readings, GridReadings):
        per_rib = force_n / 1000 / readings.ribs_tested
        ribs = in_numbers(readings.ribs_tested)
        result.give(
            "tensile_strength",
            per_rib * readings.ribs_per_metre,
            "kN/m",
            "force per rib times the ribs in a metre",
            "F_max / ribs tested · ribs per metre",
            f"{in_numbers(force_n / 1000)} / {ribs} · {in_numbers(readings.ribs_per_metre)}",
        )
        result.give(
            "force_per_rib",
            per_rib,
            "kN",
            "highest force shared by the ribs",
            "F_max / ribs tested",
            f"{in_numbers(force_n / 1000)} / {ribs}",
        )
        return readings.ribs_per_metre / readings.ribs_tested / 1000
    widths = readings.sections("width_mm")
    width_mm = sum(widths) / len(widths)
    result.give(
        "tensile_strength",
        force_n / width_mm,
        "kN/m",
        "highest force for the mean width",
        "F_max / width",
        f"{in_numbers(force_n)} / {in_numbers(width_mm)}",
    )
    return 1 / width_mm


def stiffness(
    result: SpecimenResult, parameters: WideParameters, pull: Pull, per_width: float
) -> None:
    """Give the secant stiffness in kN/m at each requested strain (ISO 10319)."""
    if pull.strain is None:
        return
    start = max(pull.zero.index - 1, 0)
    missed = []
    for percent in parameters.secant_strains_percent:
        place = first_reach(pull.strain[: pull.end + 1], percent / 100, start)
        if place is None:
            result.lacks(secant_name(percent), "kN/m")
            missed.append(f"{percent:g} %")
            continue
        force_n = place.of(pull.force_n)
        result.give(
            secant_name(percent),
            force_n * per_width / (percent / 100),
            "kN/m",
            f"force per width where {percent:g} % strain is first reached, for that strain",
            "F per width / strain",
            f"{in_numbers(force_n * per_width)} / {in_numbers(percent / 100)}",
        )
    if missed:
        result.flag("strain-not-reached", "note", missed=list(missed))


def secant_name(percent: float) -> str:
    """Return the name of the stiffness at a strain: `secant_stiffness_2.5`."""
    return f"secant_stiffness_{percent:g}"


def pretension_from_pilot(
    results: list[SpecimenResult], readings: Sequence[WideReadings], parameters: WideParameters
) -> None:
    """Where none was given, pull everything of a group again from 1 % of its first good pilot."""
    if parameters.pretension_n is not None:
        return
    places = {result.label: place for place, result in enumerate(results)}
    for group in groups_of(results):
        pilots = [
            member
            for member in group.members
            if readings[places[member.label]].pilot and member.valid
        ]
        if not pilots:
            continue
        pilot = places[pilots[0].label]
        pretension_n = parameters.pretension_from(float(readings[pilot].trace.force_n.max()))
        for place in (places[member.label] for member in group.members):
            results[place] = _analyse(readings[place], parameters, pretension_n)


INITIAL_UP_TO = 0.01
"""Strain up to which the initial modulus is fitted, from the pretension."""
OFFSET_WINDOW = 0.2
"""Part of the strain at the highest force over which the offset modulus is fitted."""


def give_moduli(
    result: SpecimenResult, parameters: WideParameters, pull: Pull, per_width: float
) -> None:
    """The moduli that were requested, in kN/m (ASTM D4595).

    Initial: the slope up to 1 % strain. Offset: the steepest slope of any stretch of a fifth of
    the strain at the highest force. Secant: force per width at a strain, divided by it. Slopes
    are by least squares.
    """
    if pull.strain is None or not parameters.moduli:
        return
    first, last = pull.zero.index, pull.top + 1
    strain, force = pull.strain[first:last], pull.force_n[first:last] * per_width
    slopes = {
        "initial": lambda: _slope(strain, force, 0.0, INITIAL_UP_TO),
        "offset": lambda: _steepest(strain, force),
        "secant": lambda: _secant(strain, force, parameters.secant_modulus_percent / 100),
    }
    formulas = {
        "initial": "least squares from 0 to 1 % strain",
        "offset": "steepest slope, by least squares",
        "secant": f"force per width at {parameters.secant_modulus_percent:g} % / strain",
    }
    for name in parameters.moduli:
        slope = slopes[name]()
        if slope is None:
            result.lacks(f"{name}_modulus", "kN/m")
            result.flag(
                f"no-{name}-modulus", "note", sentence="flag.no-secant-modulus", modulus=name
            )
            continue
        result.give(
            f"{name}_modulus", slope, "kN/m", f"{name} modulus", formulas[name], "from pretension"
        )


def _slope(strain: Samples, force: Samples, low: float, high: float) -> float | None:
    """Least squares between two strains; None with fewer than three samples or no rise."""
    inside = (strain >= low) & (strain <= high)
    x, y = strain[inside], force[inside]
    if x.size < FEWEST_IN_SLOPE or x.max() <= x.min():
        return None
    slope = float(np.polyfit(x - x.mean(), y, 1)[0])
    return slope if slope > 0 else None


def _steepest(strain: Samples, force: Samples) -> float | None:
    """The steepest of all stretches of the window, each begun a tenth of it later."""
    window = OFFSET_WINDOW * float(strain.max(initial=0.0))
    if window <= 0:
        return None
    starts = np.arange(0.0, float(strain.max()) - window, window / 10)
    slopes = [_slope(strain, force, start, start + window) for start in starts]
    return max((slope for slope in slopes if slope is not None), default=None)


def _secant(strain: Samples, force: Samples, at: float) -> float | None:
    place = first_reach(strain, at)
    return None if place is None else place.of(force) / at


FEWEST_IN_SLOPE = 3


def secant_properties(parameters: WideParameters) -> tuple[Property, ...]:
    """Return a property for each strain asked for."""
    return tuple(
        Property(secant_name(percent), f"Secant stiffness at {percent:g} %", "kN/m", significant=3)
        for percent in parameters.secant_strains_percent
    ) + tuple(
        Property(f"{name}_modulus", f"{name.capitalize()} tensile modulus", "kN/m", significant=3)
        for name in parameters.moduli
    )


STRENGTH = Property("tensile_strength", "Tensile strength", "kN/m", significant=3)
PER_RIB = Property("force_per_rib", "Force per rib", "kN", significant=3)
ELONGATION = Property("elongation_at_max", "Elongation at maximum force", "%", decimals=1)


def properties_of(parameters: WideParameters, grid: bool) -> tuple[Property, ...]:
    """Return everything that a specimen gives, in order."""
    ribs = (PER_RIB,) if grid else ()
    return (STRENGTH, *ribs, ELONGATION, *secant_properties(parameters))


def _method(method_id: str, title: str, grid: bool, parameters: Any, readings: Any) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Tension",
        directions=("md", "cd"),
        label_prefixes={"md": "M", "cd": "C"},
        properties=(STRENGTH, *((PER_RIB,) if grid else ()), ELONGATION),
        parameters=parameters,
        readings=readings,
        guide=GRID_GUIDE if grid else GEOTEXTILE_GUIDE,
        analyse=analyse_geotextile,
        together=pretension_from_pilot,
        more_properties=secant_properties,
        review=review_pull,
    )


METHODS = {
    "astm-d4595": _method(
        "astm-d4595", "Wide-width geotextile", False, GeotextileParameters, WideReadings
    ),
    "astm-d6637": _method("astm-d6637", "Geogrid", True, WideParameters, GridReadings),
}
