"""Tension of plastics, of film, and of moulded or printed bars."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator

from endurant.core.complaints import complaint
from endurant.core.fields import Positive
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, Measure, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import dumbbell
from endurant.core.methods.pulling import OBSERVATIONS, PullReadings, review_pull
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, FRAGMENTS, LOCAL, PINCH, frame_checks
from endurant.core.methods.stress_strain import (
    STRESS_PROPERTIES,
    StressParameters,
    begin_stress,
    give_break,
    give_modulus,
    give_strength,
    give_yield,
    yield_index,
)
from endurant.core.quantities import above

SHORTEST_BREAK_S, LONGEST_BREAK_S = 30, 300


class BarParameters(StressParameters):
    """Parameters of bars that carry an extensometer."""

    set_up: ClassVar[tuple[str, ...]] = ("extensometer_off_strain",)

    extensometer_off_strain: Positive | None = Field(
        None,
        description="Strain at which the run pauses for the extensometer to come off; none: it "
        "stays on to the break.",
    )


class AstmParameters(StressParameters):
    """The same with least squares and the toe taken off."""

    modulus_rule: Literal["chord", "regression"] = Field(
        "regression", description="Line through two strains, or least squares between them."
    )
    toe_compensation: bool = Field(
        True, strict=True, description="Count strain from where the straight part meets zero."
    )


class DumbbellParameters(AstmParameters, BarParameters):
    """Parameters of the dumbbells of ASTM D638."""

    set_up: ClassVar[tuple[str, ...]] = ("specimen_type",)

    specimen_type: Literal["I", "IV", "V"] = Field(
        "I", description="Type of dumbbell, which proposes grip separation and gauge length."
    )
    extensometer_off_strain: Positive | None = Field(
        0.02,
        description="Strain at which the run pauses for the extensometer to come off; none: it "
        "stays on to the break.",
    )


GUIDE = Guide(
    **guide_texts("iso-527"),
    count_per_direction=5,
    blank=Blank(
        outline="die",
        long_mm=170,
        short_mm=20,
        points_mm=dumbbell(170, 20, 80, 10, 109.3),
        inner_marks=(
            InnerMark("gauge mark", ((-5, -25), (5, -25))),
            InnerMark("gauge mark", ((-5, 25), (5, 25))),
        ),
        works_on="stretches along {yarns}",
    ),
    atmosphere="plastics-23-50",
    bench="trace",
    live=FrameGuide(
        travel_mm=200,
        usual_speed_mm_min=50,
        usual_max_n=2000,
        extensometer=True,
        own_grips=True,
        force_first=True,
    ),
    needs=lambda _: ("speed_mm_min", "gauge_length_mm", "grip_separation_mm"),
    proposes=lambda _: {"speed_mm_min": 5.0, "gauge_length_mm": 50.0, "grip_separation_mm": 115.0},
    measures=(
        Measure("width_mm", 5, span_mm=60, nominal_mm=10),
        Measure("thickness_mm", 5, span_mm=60, nominal_mm=4),
    ),
    ready_checks=frame_checks(
        ReadyCheck(
            "upper-gripped",
            "Bar in line in both grips, both tightened",
            "a bar held at an angle bends before it stretches",
            tells="grip",
        ),
        ReadyCheck(
            "grips-relieved",
            "Force of closing the grips released to near zero, by moving",
            "it bends the start of the curve and counts as load",
            tells="release",
        ),
        ReadyCheck(
            "extensometer-fitted",
            "Extensometer fitted at {gauge_length_mm} mm, its knives square, without bending the "
            "bar",
            "a knife that slides gives a modulus far too high or too low",
        ),
        because="take-up and strain after the extensometer are divided by this length",
        force_first=True,
    ),
    cautions=(PINCH, FRAGMENTS, BLADES, LOCAL),
    observations=OBSERVATIONS,
)

LENGTHS = {
    "I": {"gauge_length_mm": 50.0, "grip_separation_mm": 115.0},
    "IV": {"gauge_length_mm": 25.0, "grip_separation_mm": 65.0},
    "V": {"gauge_length_mm": 7.62, "grip_separation_mm": 25.0},
}
"""Gauge length and distance of the grips by specimen type (ASTM D638)."""

D638_GUIDE = replace(
    GUIDE,
    live=FrameGuide(
        travel_mm=200,
        usual_speed_mm_min=5,
        usual_max_n=2000,
        extensometer=True,
        own_grips=True,
        force_first=True,
    ),
    proposes=lambda parameters: (
        LENGTHS[parameters.get("specimen_type") or "I"] | {"speed_mm_min": 5.0}
    ),
    **guide_texts("astm-d638"),
    blank=Blank(
        outline="die",
        long_mm=165,
        short_mm=19,
        points_mm=dumbbell(165, 19, 57, 13, 115),
        inner_marks=(
            InnerMark("gauge mark", ((-6.5, -25), (6.5, -25))),
            InnerMark("gauge mark", ((-6.5, 25), (6.5, 25))),
        ),
        works_on="stretches along {yarns}",
    ),
    measures=(Measure("width_mm", 5, 50, 13), Measure("thickness_mm", 5, 50, 3.2)),
)

FILM_GUIDE = replace(
    GUIDE,
    needs=lambda _: ("speed_mm_min", "gauge_length_mm"),
    proposes=lambda _: {"speed_mm_min": 500.0, "gauge_length_mm": 100.0},
    live=FrameGuide(travel_mm=800, usual_speed_mm_min=500, usual_start_mm=100),
    **guide_texts("iso-527-3"),
    blank=Blank(
        outline="rectangle",
        long_mm=150,
        short_mm=15,
        inner_marks=(
            InnerMark("grip line", ((-7.5, -50), (7.5, -50))),
            InnerMark("grip line", ((-7.5, 50), (7.5, 50))),
        ),
        works_on="stretches along {yarns}",
    ),
    measures=(Measure("width_mm", 5, 100, 15), Measure("thickness_mm", 5, 100, 0.1)),
    ready_checks=frame_checks(
        ReadyCheck(
            "edges-clean",
            "Edges clean under a lens, no nick",
            "a nick is a tear test, not a tension test",
        ),
    ),
    atmosphere="film-23-50",
    cautions=(PINCH, BLADES, LOCAL),
)


def analyse_iso(readings: PullReadings, parameters: StressParameters) -> SpecimenResult:
    """Return modulus, strength, yield and break of one bar, in MPa and % (ISO 527-2)."""
    return _analyse(readings, parameters, GUIDE)


def analyse_film(readings: PullReadings, parameters: StressParameters) -> SpecimenResult:
    """Return modulus, strength, yield and break of one strip, in MPa and % (ASTM D882)."""
    return _analyse(readings, parameters, FILM_GUIDE)


def analyse_d638(readings: PullReadings, parameters: StressParameters) -> SpecimenResult:
    """Return modulus, strength, yield and break of one bar, in MPa and % (ASTM D638).

    The time to break is checked against the window of the method.
    """
    return _analyse(readings, parameters, D638_GUIDE, timed=True)


def _analyse(
    readings: PullReadings, parameters: StressParameters, guide: Guide, timed: bool = False
) -> SpecimenResult:
    result, begun = begin_stress(
        readings,
        parameters,
        guide,
        STRESS_PROPERTIES,
        wants_extensometer=guide is not FILM_GUIDE,
    )
    if begun is None:
        return result
    give_modulus(result, begun, parameters)
    give_strength(result, begun)
    index = yield_index(begun, parameters.yield_prominence)
    give_yield(result, begun, index, "yield: the first distinct maximum")
    give_break(result, begun)
    if timed and readings.trace.time_s is not None:
        flag_break_time(result, readings, begun.pull.end)
    return result


def flag_break_time(result: SpecimenResult, readings: PullReadings, end: int) -> None:
    """`break-time-out-of-window` when it broke before half a minute or after five."""
    time_s: Any = readings.trace.time_s
    seconds = float(time_s[end] - time_s[0])
    if above(SHORTEST_BREAK_S, seconds) or above(seconds, LONGEST_BREAK_S):
        result.flag(
            "break-time-out-of-window",
            "warn",
            minutes=seconds / 60,
            change="higher" if seconds > LONGEST_BREAK_S else "lower",
        )


def _method(method_id: str, title: str, parameters: Any, guide: Guide, analyse: Any) -> Method:
    ways = ("md", "cd") if guide is FILM_GUIDE else ()
    return Method(
        id=method_id,
        title=title,
        family="Tension",
        directions=ways,
        label_prefixes={"md": "M", "cd": "C"},
        properties=STRESS_PROPERTIES,
        parameters=parameters,
        readings=PullReadings,
        guide=guide,
        analyse=analyse,
        review=review_pull,
    )


FILM_SPEEDS = (5.0, 50.0, 100.0, 200.0, 300.0, 500.0)


class FilmParameters(StressParameters):
    """Parameters of film by ISO 527-3: strips both ways, at one of its speeds."""

    @field_validator("speed_mm_min")
    @classmethod
    def _a_speed_of_film(cls, speed: float | None) -> float | None:
        if speed is not None and speed not in FILM_SPEEDS:
            listed = ", ".join(f"{each:g}" for each in FILM_SPEEDS)
            raise complaint("film.speed", given=speed, known=listed)
        return speed


METHODS = {
    "iso-527-3": _method(
        "iso-527-3",
        "Tension of film and sheet (ISO 527-3)",
        FilmParameters,
        FILM_GUIDE,
        analyse_film,
    ),
    "iso-527": _method("iso-527", "Tension of plastics", BarParameters, GUIDE, analyse_iso),
    "astm-d638": _method(
        "astm-d638", "Tension of plastics, dumbbells", DumbbellParameters, D638_GUIDE, analyse_d638
    ),
    "astm-d882": _method(
        "astm-d882", "Tension of film and thin sheet", AstmParameters, FILM_GUIDE, analyse_film
    ),
}
