"""Falling dart on film: the staircase, and the mass at which half of the drops fail."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from endurant.core.fields import Positive, Strict, Whole
from endurant.core.methods.checks import begin, too_few_valid
from endurant.core.methods.guide import (
    Blank,
    Demand,
    Guide,
    InnerMark,
    ReadyCheck,
    SeriesGuide,
    Turn,
    piece_letter,
    yes_or_no,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import circle
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import HEAVY_DROP, LOCAL
from endurant.core.quantities import above, equal_at_limit
from endurant.core.rounding import in_numbers

DROPS = 20
MIN_STEP, MAX_STEP = 0.05, 0.15
SD_FACTOR, SD_ADDED, SD_LIMIT = 1.62, 0.029, 0.3
MIN_SD_STEPS, MAX_SD_STEPS = 0.5, 2


class DartParameters(Parameters):
    """Parameters of the staircase."""

    set_up: ClassVar[tuple[str, ...]] = (
        "dart",
        "start_g",
        "step_g",
    )
    laboratory: ClassVar[tuple[str, ...]] = ("failures_counted",)

    dart: Literal["A", "B"] = Field(
        "A",
        description="A: head of 38 mm from 0.66 m; B: 50 mm from 1.5 m. They do not compare.",
    )
    start_g: Positive = Field(description="Mass of the first drop.")
    step_g: Positive = Field(description="Step, 5 to 15 % of the start.")
    drops_planned: Whole = Field(DROPS, description="Drops after which the series is looked at.")
    failures_needed: Whole = Field(10, description="Failures (or holds) that end it.")
    failures_counted: Literal["first", "all"] = Field(
        "first", description="With more failures than needed: the first, or all of them."
    )


class Drop(Strict):
    """One drop."""

    mass_g: Positive
    failed: bool = Field(strict=True)


class DartReadings(Readings):
    """One series of drops."""

    drops: Annotated[list[Drop], Field(min_length=1, max_length=10_000)] = Field(
        description="Drops, in order."
    )


def next_drop(parameters: Mapping[str, Any], drops: Sequence[Any]) -> Turn | None:
    """Return the mass that is due, by the last drop; None when the series is done."""
    settings = DartParameters.model_validate(dict(parameters))
    due_g, text = settings.start_g, "The first drop, near the mass at which half fail."
    if drops:
        taken = DartReadings(label="S", drops=[Drop.model_validate(drop) for drop in drops])
        series = climb(taken, settings)
        if series.done:
            return None
        failed = len(series.failures())
        due_g = series.next_g
        text = (
            f"{failed} failed and {len(drops) - failed} held; {settings.failures_needed} failures "
            f"end it, after {settings.drops_planned} drops at least."
        )
    return Turn(
        title=f"Drop {len(drops) + 1}: {in_numbers(due_g)} g",
        why=f"{text} A fresh place of the film, piece {piece_letter(len(drops))}; catch the dart.",
        button="Record drop",
        asks=(yes_or_no("failed", "The film", "held", "failed"),),
        sets={"mass_g": due_g},
    )


PIECES_MORE = 0.25
"""Share of the planned drops that a series may need beyond them until ten failed, or held."""


def pieces_of_film(parameters: Mapping[str, Any]) -> Demand:
    """A fresh piece for each drop that is planned, and some more for a series that goes on."""
    drops = int(
        parameters.get("drops_planned") or DartParameters.model_fields["drops_planned"].default
    )
    more = ceil(drops * PIECES_MORE)
    return Demand(
        pieces=drops + more,
        piece="piece",
        text=f"{drops} drops a face and {more} more for a series that goes on, a piece for each",
    )


GUIDE = Guide(
    **guide_texts("iso-7765-1"),
    count_per_direction=1,
    spares_per_direction=0,
    demand=pieces_of_film,
    blank=Blank(
        outline="disc",
        long_mm=180,
        short_mm=180,
        inner_marks=(InnerMark("clamped ring", (*circle(127), (63.5, 0))),),
        works_on="struck, face as labelled",
    ),
    atmosphere="film-23-50",
    bench="staircase",
    live=SeriesGuide("drop", "drops", next_drop, may_end="End the series here"),
    ready_checks=(
        ReadyCheck("flat", "Film flat and held all round", "slack takes up the blow"),
        ReadyCheck(
            "dart",
            "Dart {dart} (A 38 mm, B 50 mm): head smooth, mass checked",
            "a nick cuts the film",
            set_up=True,
        ),
        ReadyCheck(
            "height",
            "Drop height for dart {dart}: A 0.66 m, B 1.5 m",
            "results of A and B do not compare",
            set_up=True,
        ),
        ReadyCheck("clear", "Hands clear of the dart", "it falls", hold=True),
    ),
    cautions=(HEAVY_DROP, LOCAL),
    observations=(),
)


@dataclass(frozen=True)
class Series:
    """How far a staircase has come: drops that enter, and whether it is done."""

    drops: tuple[Drop, ...]
    done: bool
    next_g: float

    def failures(self) -> list[float]:
        """Masses of the failures, in order."""
        return [drop.mass_g for drop in self.drops if drop.failed]


def climb(readings: DartReadings, parameters: DartParameters) -> Series:
    """Follow the staircase of dart masses in g; raises Invalid at a mass that was not due."""
    due, failed, held, end = parameters.start_g, 0, 0, None
    more_failures = False
    needed = parameters.failures_needed
    for place, drop in enumerate(readings.drops, start=1):
        if not equal_at_limit(drop.mass_g, due):
            raise readings.refuse(
                "mass_g", "reading.dart-mass-wrong", drop=place, mass_g=drop.mass_g, due=due
            )
        due = round(due + (-parameters.step_g if drop.failed else parameters.step_g), 9)
        if end is not None:
            continue
        failed, held = failed + drop.failed, held + (not drop.failed)
        if place == parameters.drops_planned:
            more_failures = failed > needed
        if place >= parameters.drops_planned and (held if more_failures else failed) >= needed:
            end = place
    entered = readings.drops if end is None else readings.drops[:end]
    return Series(tuple(entered), end is not None, due)


def analyse(readings: DartReadings, parameters: DartParameters) -> SpecimenResult:
    """Return failure mass and standard deviation of one series in g, or the mass that is due next.

    Source: ASTM D1709, the staircase technique.
    """
    result = begin(readings, GUIDE)
    series = climb(readings, parameters)
    if not series.done:
        result.lacks("failure_mass", "g")
        result.lacks("sd", "g")
        result.give(
            "next_mass", series.next_g, "g", "mass due next", "last mass ± step", "by the rule"
        )
        failed = len(series.failures())
        counted = f"{len(series.drops)} drops with {failed} failures"
        result.flag("series-incomplete", "warn", progress=counted, next_g=series.next_g)
        return result
    masses = series.failures()
    if parameters.failures_counted == "first":
        masses = masses[: parameters.failures_needed]
    give_figures(result, masses, parameters.step_g)
    if len(readings.drops) > len(series.drops):
        result.flag("drops-after-end", "note", count=len(series.drops))
    return result


def give_figures(result: SpecimenResult, masses: Sequence[float], step_g: float) -> None:
    """Failure mass and SD from the masses of the failures."""
    lowest = min(masses)
    steps = [round((mass - lowest) / step_g) for mass in masses]
    n, total, squares = len(steps), sum(steps), sum(step * step for step in steps)
    where = f"N = {n}, m0 = {lowest:g} g, A = {total}, B = {squares}"
    result.give(
        "failure_mass",
        lowest + step_g * (total / n - 0.5),
        "g",
        f"mass at which half fail, from {n} failures",
        "m0 + step · (A / N - 0.5)",
        f"{lowest:g} + {step_g:g} · ({total} / {n} - 0.5); {where}",
    )
    spread = (n * squares - total * total) / (n * n)
    if not above(spread, SD_LIMIT):
        result.lacks("sd", "g")
        result.flag("sd-not-valid", "note", spread=spread)
        return
    sd_g = SD_FACTOR * step_g * (spread + SD_ADDED)
    result.give(
        "sd",
        sd_g,
        "g",
        "spread of the masses of failure",
        "1.62 · step · ((N·B - A²) / N² + 0.029)",
        f"1.62 · {step_g:g} · ({in_numbers(spread)} + 0.029)",
    )
    if above(MIN_SD_STEPS * step_g, sd_g) or above(sd_g, MAX_SD_STEPS * step_g):
        result.flag("step-unsuitable", "note", sd_steps=sd_g / step_g, suitable_g=sd_g)


def review(results: Results, parameters: DartParameters) -> list[Flag]:
    """Too few valid, and a step that does not suit the start."""
    flags = too_few_valid(results, parameters.specimens_wanted)
    share = parameters.step_g / parameters.start_g
    if above(MIN_STEP, share) or above(share, MAX_STEP):
        flags.append(Flag.of("step-size", "warn", percent=100 * share))
    return flags


def _method(method_id: str, title: str) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Impact",
        directions=("face-out", "face-in"),
        label_prefixes={"face-out": "O", "face-in": "I"},
        properties=(
            Property("failure_mass", "Failure mass", "g", decimals=0),
            Property("sd", "SD of the failure mass", "g", significant=2),
            Property("next_mass", "Mass due next", "g", decimals=0, summed=False),
        ),
        parameters=DartParameters,
        readings=DartReadings,
        guide=GUIDE,
        analyse=analyse,
        review=review,
    )


METHODS = {
    "iso-7765-1": _method("iso-7765-1", "Falling dart on film (ISO 7765-1)"),
    "astm-d1709": _method("astm-d1709", "Falling dart on film (D1709)"),
}
