"""A method: its parameters, readings, results and guide in one record."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from endurant.core.methods.guide import Blank, Demand, Guide
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Flag, Results, SpecimenResult, no_review

Family = Literal[
    "Tear and seam",
    "Tension",
    "Puncture, burst, compression",
    "Surface",
    "Fire",
    "Melt flow",
    "Impact",
    "Packaging",
]


WAYS = ("warp", "weft", "md", "cd", "length", "width", "face-out", "face-in")
"""Directions that any method takes unless it names its own."""


@dataclass(frozen=True)
class Method:
    """One method: found by its id, run by `analyse`, explained by its guide.

    `directions` are those that a job asks for; `also_directions` are understood in a
    document too. `together` amends the results where specimens matter to one another;
    `review` flags the whole test; `more_properties` depend on the parameters; `summarise`
    replaces the rows by direction and state; `more` is put beside the summary. A method that
    `pools` has a row over all directions too; `rows_for` names the properties that a test under
    its parameters can give at all. Specimens are
    planned for each direction when a sample is received, or named by the document that
    brings their readings in.
    """

    id: str
    title: str
    family: Family
    properties: tuple[Property, ...]
    parameters: type[Any]
    readings: type[Any]
    guide: Guide
    analyse: Callable[[Any, Any], SpecimenResult]
    directions: tuple[str, ...] = ()
    also_directions: tuple[str, ...] = WAYS
    direction_required: bool = False
    planned: Literal["by-direction", "by-document"] = "by-direction"
    label_prefixes: dict[str, str] = field(default_factory=dict)
    review: Callable[[Results, Any], list[Flag]] = no_review
    together: Callable[[list[SpecimenResult], Sequence[Any], Any], None] | None = None
    more_properties: Callable[[Any], tuple[Property, ...]] | None = None
    summarise: Callable[[Method, Results, Any], list[Any]] | None = None
    more: Callable[[Results, Any], dict[str, Any]] | None = None
    pools: bool = False
    rows_for: Callable[[Any], Sequence[str]] | None = None

    @property
    def defaults(self) -> dict[str, Any]:
        """The parameters as they stand before anything is requested or set up."""
        return {
            name: field.get_default(call_default_factory=True)
            for name, field in self.parameters.model_fields.items()
            if not field.is_required()
        }

    @property
    def forms(self) -> tuple[str, ...]:
        """The forms of a sample that it can be done on: sheet, pieces, granules, packs."""
        if self.guide.forms:
            return self.guide.forms
        if self.guide.bench == "cuts":
            return ("granules",)
        if self.guide.blank is not None:
            return ("sheet", "pieces")
        return ("packs", "pieces")

    @property
    def runs_live(self) -> bool:
        """True when the bench can run it; else its readings are brought in."""
        return self.guide.live is not None

    @property
    def known_directions(self) -> tuple[str, ...]:
        """All directions that a document may give."""
        return tuple(dict.fromkeys(self.directions + self.also_directions))

    def blank_for(self, parameters: Mapping[str, Any]) -> Blank | None:
        """Return the blank under these parameters; None where nothing is cut from a sheet."""
        guide = self.guide
        blank = guide.blanks.get(str(parameters.get(guide.cut_by)), guide.blank)
        if blank is None or guide.resized is None:
            return blank
        return guide.resized(blank, parameters)

    def demand_for(self, parameters: Mapping[str, Any]) -> Demand:
        """Return what a test uses under these parameters."""
        return self.guide.demand(parameters)

    def planned_for(self, parameters: Mapping[str, Any]) -> int:
        """Return how many specimens of a direction are planned, spares apart.

        As many as the method asks for where the parameters do not say how many are wanted.
        """
        requested = parameters.get("specimens_wanted") or self.guide.count_per_direction
        return self.demand_for(parameters).planned(int(requested))

    def spares_for(self, parameters: Mapping[str, Any]) -> int:
        """Return how many more of a direction are kept: for voids, and for later rounds."""
        return self.guide.spares_per_direction + self.demand_for(parameters).later

    def properties_for(self, parameters: Any) -> tuple[Property, ...]:
        """Return the properties under these parameters."""
        more = self.more_properties(parameters) if self.more_properties else ()
        digits = parameters.reported_to
        return tuple(
            known.reported_by(digits[known.name]) if known.name in digits else known
            for known in self.properties + more
        )

    def label_prefix(self, direction: str | None) -> str:
        """Return what labels of this direction begin with: its own letter, or its initials."""
        if direction is None:
            return "S"
        initials = "".join(word[0] for word in direction.split("-")).upper()
        return self.label_prefixes.get(direction, initials)
