"""The 45-degree flammability test of clothing fabric: burn times, codes, and the class."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field

from endurant.core.fields import Name, NotNegative, Positive
from endurant.core.methods.burning_order import order_of_burning, strips_due
from endurant.core.methods.burning_table import (
    PLAIN_CODES,
    RAISED_CODES,
    ROUND_SIZE,
    Burned,
    Finding,
    finding_of,
)
from endurant.core.methods.checks import begin
from endurant.core.methods.guide import (
    Blank,
    Demand,
    Guide,
    GuideStage,
    InnerMark,
    ReadyCheck,
    StepsGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import FLAME, LOCAL
from endurant.core.methods.summary import (
    Group,
    SummaryRow,
    groups_of,
    pooled,
    row_of,
    text_row,
)
from endurant.core.quantities import above, at_least
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers

WITHOUT_TIME = frozenset({"DNI", "IBE", "SFuc", "SFpw", "SFpoi"})
STATES = ("original", "refurbished")

EXEMPT_GRAMMAGE_G_M2 = 88.2
EXEMPT_FIBRES = frozenset({"acrylic", "modacrylic", "nylon", "olefin", "polyester", "wool"})

Code = Literal[
    "DNI", "IBE", "BURN", "SFuc", "SFpw", "SFpoi", "SFonly", "SFBB", "SFBBpoi", "SFBBpoi*"
]


class FireParameters(Parameters):
    """Parameters of the test."""

    specimens_wanted: int = requested(5)
    surface: Literal["plain", "raised"] = Field(description="Plain, or with a pile, nap or brush.")
    max_transfer_s: Positive = Field(45, description="Longest way from desiccator to flame.")
    sides_tested: Literal[1, 2] | None = Field(
        None, description="Sides tried in the preliminary; none: 2 for raised, 1 for plain."
    )
    grammage_g_m2: Positive | None = Field(None, description="Mass per area, for the exemption.")
    fibres: Annotated[list[Name], Field(max_length=20)] | None = Field(
        None, description="Names of the fibres, for the exemption."
    )

    def sides(self) -> int:
        """Sides that the preliminary tries."""
        return self.sides_tested or (2 if self.surface == "raised" else 1)


class FireReadings(Readings):
    """One burned specimen."""

    state: Literal["original", "refurbished"] = Field(
        "original", description="As received, or after a dry clean and a wash."
    )
    round: Literal["preliminary", "first", "further"] = Field(description="Which round.")
    side: Literal["face", "back"] = Field("face", description="Side towards the flame.")
    code: Code = Field(description="What the flame did.")
    burn_time_s: Positive | None = Field(None, description="Time to the thread, whole tenths.")
    transfer_s: NotNegative | None = Field(None, description="Way from desiccator to flame.")

    @property
    def tenths(self) -> int | None:
        """Burn time in whole tenths of a second."""
        return None if self.burn_time_s is None else round(10 * self.burn_time_s)

    def checked(self, surface: str) -> None:
        """Code, time and tenths go together; raises Invalid."""
        codes = PLAIN_CODES if surface == "plain" else RAISED_CODES
        if self.code not in codes:
            raise self.refuse(
                "code", "reading.flame-code", code=self.code, surface=surface, codes=list(codes)
            )
        if self.code in WITHOUT_TIME and self.burn_time_s is not None:
            raise self.refuse("burn_time_s", "reading.flame-time-given", code=self.code)
        if self.code not in WITHOUT_TIME and self.burn_time_s is None:
            raise self.refuse("burn_time_s", "reading.flame-time-missing", code=self.code)
        if self.burn_time_s is not None and (
            self.tenths == 0 or above(abs(10 * self.burn_time_s - (self.tenths or 0)), 1e-6)
        ):
            raise self.refuse(
                "burn_time_s", "reading.flame-time-tenths", burn_time_s=self.burn_time_s
            )


FAN = (
    "The fan of the hood is off while a specimen burns, because a draught feeds the flame, and on "
    "right after, to clear the fumes."
)

FURTHER = 5


def strips(parameters: Mapping[str, Any]) -> Demand:
    """The strips each way: tried before, burned first, and kept for what the table may ask for."""
    surface = parameters.get("surface")
    before = int(parameters.get("sides_tested") or (2 if surface == "raised" else 1))
    treated = before + 2 * ROUND_SIZE
    return Demand(
        before=before,
        later=FURTHER + treated,
        treated=treated,
        text=f"each way {before} tried before the first round and {FURTHER} further ones kept, and "
        f"a piece of cloth that is refurbished whole and then cut into {treated}",
    )


GUIDE = Guide(
    **guide_texts("16-cfr-1610"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=150,
        short_mm=50,
        inner_marks=(InnerMark("thread", ((-25, 63), (25, 63))),),
        works_on="burns along {yarns}",
        selvedge_margin_mm=50,
    ),
    atmosphere=None,
    stages=(
        GuideStage("oven-105", 30, most_wait_minutes=1, why="it takes water from the room"),
        GuideStage(
            "desiccator",
            15,
            wait_parameter_s="max_transfer_s",
            why="a dried specimen must not sit in room air",
        ),
    ),
    bench="burn",
    demand=strips,
    calls=strips_due,
    advises=order_of_burning,
    wears=("stop thread",),
    live=StepsGuide(),
    ready_checks=(
        ReadyCheck(
            "cut-after",
            "Cut from the cloth after cleaning and washing",
            "a strip that was not refurbished tells nothing of the refurbished cloth",
            when=lambda aims: aims.get("state") == "refurbished",
            early=True,
        ),
        ReadyCheck(
            "mounted",
            "Mounted in the specimen holder",
            "a strip that was dried is not handled again",
            early=True,
        ),
        ReadyCheck(
            "brushed",
            "Lay of the pile away from the closed end, brushed once from the open to the closed "
            "end",
            "a flat pile does not flash",
            when=lambda aims: aims.get("surface") == "raised",
            early=True,
        ),
        ReadyCheck(
            "flame", "Flame 16 mm, applied for 1 s", "a longer flame lights more", set_up=True
        ),
        ReadyCheck("thread", "Stop thread across the top, weight on it", "it stops the timer"),
        ReadyCheck("fan-off", "Hood fan off", FAN, reads="fan-off"),
        ReadyCheck(
            "door-shut",
            "Door shut, nothing loose near, extinguisher and water at hand",
            "burning cloth falls",
            hold=True,
        ),
    ),
    cautions=(
        FLAME,
        FAN,
        "Close the gas when it is not in use. Gloves for hot holders.",
        "Local fire rules and the laboratory's safety officer decide.",
        LOCAL,
    ),
    observations=(),
)


def analyse(readings: FireReadings, parameters: FireParameters) -> SpecimenResult:
    """Return the burn time of one specimen in s (16 CFR 1610).

    Raises Invalid for a code that does not fit the time.
    """
    readings.checked(parameters.surface)
    result = begin(readings, GUIDE)
    result.counts = readings.round != "preliminary"
    result.more.update(round=readings.round, side=readings.side, code=readings.code)
    if readings.burn_time_s is None:
        result.lacks("burn_time", "s")
        codes = PLAIN_CODES | RAISED_CODES
        result.flag("no-burn-time", "note", code=readings.code, meaning=codes[readings.code])
    else:
        tenths = readings.tenths or 0
        result.give(
            "burn_time",
            tenths / 10,
            "s",
            f"{readings.code}: time until the thread burned through",
            "t",
            f"{tenths / 10:.1f} s",
        )
    if readings.transfer_s is not None and above(readings.transfer_s, parameters.max_transfer_s):
        result.flag(
            "too-slow",
            "void",
            sentence="flag.too-slow.desiccator",
            transfer_s=readings.transfer_s,
            max_transfer_s=parameters.max_transfer_s,
        )
    return result


def burned_of(result: SpecimenResult) -> tuple[str, Burned]:
    """Return label, tenths and code of a result."""
    seconds = result.figure("burn_time")
    return result.label, (None if seconds is None else round(10 * seconds), result.more["code"])


def findings(results: Results, surface: str) -> dict[str, Finding]:
    """Return what the table says of each state that has specimens."""
    by_state = {}
    for state in STATES:
        members = [result for result in results if result.state == state]
        if members:
            first, further = (
                [
                    burned_of(member)
                    for member in members
                    if member.more["round"] == name and member.valid
                ]
                for name in ("first", "further")
            )
            by_state[state] = finding_of(first, further, surface)
    return by_state


def overall_class(by_state: dict[str, Finding]) -> int | None:
    """Return the worse class of the two states; None while it cannot be said."""
    classes = [by_state[state].fire_class if state in by_state else None for state in STATES]
    if 3 in classes:
        return 3
    known = [class_name for class_name in classes if class_name is not None]
    return max(known) if len(known) == len(STATES) else None


def quickest_way(results: Results, state: str) -> tuple[str | None, str] | None:
    """Return direction and side that burned quickest in the preliminary; None without one."""
    tried = [
        result
        for result in results
        if result.state == state and result.more["round"] == "preliminary" and result.valid
    ]
    if not tried:
        return None

    def order(specimen_result: SpecimenResult) -> tuple[float, bool, bool]:
        seconds = specimen_result.figure("burn_time")
        return (
            float("inf") if seconds is None else seconds,
            specimen_result.direction != "length",
            specimen_result.more["side"] != "face",
        )

    quickest = min(tried, key=order)
    return quickest.direction, quickest.more["side"]


def place_rounds(
    results: list[SpecimenResult], _readings: Sequence[FireReadings], parameters: FireParameters
) -> None:
    """Refuse a round with too many, flag the wrong way, and set aside what was not asked for."""
    for state in STATES:
        for name in ("preliminary", "first", "further"):
            members = [
                result
                for result in results
                if result.state == state and result.more["round"] == name and result.valid
            ]
            if len(members) > ROUND_SIZE:
                raise Invalid(
                    "reading.flame-round-full",
                    label=members[ROUND_SIZE].label,
                    name=name,
                    state=state,
                    count=len(members),
                    max=ROUND_SIZE,
                    field="round",
                    specimen=members[ROUND_SIZE].label,
                )
        way = quickest_way(results, state)
        for figure in results:
            own = (figure.direction, figure.more["side"])
            if (
                way
                and figure.state == state
                and figure.more["round"] != "preliminary"
                and own != way
            ):
                figure.flag(
                    "not-quickest-way",
                    "warn",
                    direction=own[0],
                    side=own[1],
                    quickest_direction=way[0],
                    quickest_side=way[1],
                )
    by_state = findings(results, parameters.surface)
    for figure in results:
        if figure.more["round"] != "further" or figure.state not in by_state:
            continue
        finding = by_state[figure.state]
        if figure.label not in finding.entered:
            figure.counts = False
            if finding.row is not None and not finding.asks_for_more:
                figure.flag("further-not-asked", "warn", row=finding.row)


def summarise(method: Method, results: Results, parameters: FireParameters) -> list[SummaryRow]:
    """Burn time and class of each state, and the class of both."""
    burn_time, fire_class = method.properties
    by_state = findings(results, parameters.surface)
    rows: list[SummaryRow | None] = []
    for state, finding in by_state.items():
        entered = [result for result in results if result.label in finding.entered]
        rows += [row_of(burn_time, group, parameters.rounding) for group in groups_of(entered)]
        group = Group(None, state, {}, entered)
        text = None if finding.fire_class is None else str(finding.fire_class)
        facts: dict[str, Any] = {"class": finding.fire_class, "decided_by": finding.row}
        rows.append(text_row(fire_class, "class", group, len(entered), text, **facts))
    overall = overall_class(by_state)
    everything = Group(None, "all", {}, pooled(results).members)
    text = None if overall is None else str(overall)
    rows.append(text_row(fire_class, "class", everything, None, text, **{"class": overall}))
    return [row for row in rows if row is not None]


def review(results: Results, parameters: FireParameters) -> list[Flag]:
    """Return where in the sequence the test stands, and what decides next."""
    flags: list[Flag] = []
    by_state = findings(results, parameters.surface)
    for state, finding in by_state.items():
        flags += preliminary_flags(results, state, parameters)
        if finding.row is None:
            flags.append(
                Flag.of(
                    "first-incomplete",
                    "note",
                    state=state,
                    count=len(finding.entered),
                    max=ROUND_SIZE,
                )
            )
        if finding.asks_for_more:
            further = sum(
                result.state == state and result.more["round"] == "further" and result.valid
                for result in results
            )
            flags.append(
                Flag.of(
                    "five-more-needed",
                    "warn",
                    state=state,
                    row=finding.row,
                    count=ROUND_SIZE - further,
                )
            )
        if finding.inconclusive:
            flags.append(Flag.of("inconclusive", "warn", state=state))
    original = by_state.get("original")
    if original and original.fire_class in (1, 2) and "refurbished" not in by_state:
        flags.append(Flag.of("refurbished-needed", "note"))
    return flags + exemption_flags(parameters)


def preliminary_flags(results: Results, state: str, parameters: FireParameters) -> list[Flag]:
    """`preliminary-incomplete` when a way was not tried."""
    tried = {
        (result.direction, result.more["side"])
        for result in results
        if result.state == state and result.more["round"] == "preliminary" and result.valid
    }
    if parameters.sides() == 2:
        missing = [
            f"{way}, {side}"
            for way in ("length", "width")
            for side in ("face", "back")
            if (way, side) not in tried
        ]
    else:
        missing = [way for way in ("length", "width") if way not in {result for result, _ in tried}]
    if not missing:
        return []
    return [Flag.of("preliminary-incomplete", "warn", state=state, missing="; ".join(missing))]


def exemption_flags(parameters: FireParameters) -> list[Flag]:
    """`exemption-possible`: offered, never applied alone."""
    reasons = []
    grammage = parameters.grammage_g_m2
    heavy = grammage is not None and at_least(grammage, EXEMPT_GRAMMAGE_G_M2)
    if heavy and parameters.surface == "plain":
        reasons.append(f"plain and {in_numbers(grammage or 0)} g/m² or more than 88.2 g/m²")
    fibres = parameters.fibres or []
    if fibres and all(fibre.strip().lower() in EXEMPT_FIBRES for fibre in fibres):
        reasons.append(f"wholly of {', '.join(fibres)}")
    if not reasons:
        return []
    return [Flag.of("exemption-possible", "note", reasons="; ".join(reasons))]


METHOD = Method(
    planned="by-document",
    id="16-cfr-1610",
    title="Flammability of clothing fabric, 45 degrees",
    family="Fire",
    directions=("length", "width"),
    also_directions=(),
    direction_required=True,
    label_prefixes={"length": "L", "width": "W"},
    properties=(
        Property("burn_time", "Burn time", "s", decimals=1),
        Property("class", "Class", "", "class"),
    ),
    parameters=FireParameters,
    readings=FireReadings,
    guide=GUIDE,
    analyse=analyse,
    together=place_rounds,
    summarise=summarise,
    review=review,
)
METHODS = {METHOD.id: METHOD}
