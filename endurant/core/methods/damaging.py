"""Damage to packs, graded and counted: what dropping and shaking have in common."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

from pydantic import Field

from endurant.core.fields import Strict
from endurant.core.methods.guide import Ask, yes_or_no
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Results, SpecimenResult
from endurant.core.methods.summary import SummaryRow, count_row, groups_of

GRADES = ("none", "slight", "marked", "severe")

Damage = Annotated[int, Field(strict=True, ge=0, le=3)]


class Look(Strict):
    """What was seen at one look: damage 0 none, 1 slight, 2 marked, 3 severe."""

    damage_outside: Damage = 0
    damage_inside: Damage = 0
    leak: bool = Field(False, strict=True)

    def failed(self, limit: int) -> bool:
        """It leaks, or its inside is damaged beyond the limit agreed."""
        return self.leak or self.damage_inside > limit


def damage_asks(*, inside: bool = True) -> tuple[Ask, ...]:
    """Return what is looked for after a drop or a shake; inside only when the pack is opened."""
    means = {grade: number for number, grade in enumerate(GRADES)}
    within = Ask("damage_inside", "damage inside", kind="choice", choices=GRADES, means=means)
    return (
        Ask("damage_outside", "damage outside", kind="choice", choices=GRADES, means=means),
        *((within,) if inside else ()),
        yes_or_no("leak", "leak", "tight", "leaks"),
    )


class DamageParameters(Parameters):
    """The limit that was agreed."""

    max_damage_inside: Damage = Field(0, description="Worst damage inside that still passes.")


FAILED = Property("failed", "Packs that failed", "", "count")
DAMAGES = (
    Property("damage_outside", "Worst damage outside", "", decimals=0, summed=False),
    Property("damage_inside", "Worst damage inside", "", decimals=0, summed=False),
)


def give_failed(result: SpecimenResult, looks: Sequence[Look], limit: int) -> bool:
    """Whether the pack failed."""
    failing = [place for place, look in enumerate(looks, start=1) if look.failed(limit)]
    text = f"failed at look {failing[0]}" if failing else "no leak, inside within the limit"
    rule = f"leak, or inside above {GRADES[limit]}"
    result.give("failed", int(bool(failing)), "", text, rule, f"{len(looks)} looks")
    return bool(failing)


def give_damages(result: SpecimenResult, looks: Sequence[Look]) -> None:
    """The worst damage outside and inside."""
    for name, where in (("damage_outside", "outside"), ("damage_inside", "inside")):
        worst = max(getattr(look, name) for look in looks)
        text = f"worst damage {where}: {GRADES[worst]}"
        result.give(name, worst, "", text, "max over the looks", f"{len(looks)} looks")


def summarise_failed(method: Method, results: Results, _parameters: Any) -> list[SummaryRow]:
    """Return the number of failed packs in each group."""
    requested = next(requested for requested in method.properties if requested.name == FAILED.name)
    rows = [count_row(requested, group) for group in groups_of(results)]
    return [row for row in rows if row is not None]
