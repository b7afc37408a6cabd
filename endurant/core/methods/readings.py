"""What is read from one specimen."""

from __future__ import annotations

from typing import ClassVar

from pydantic import Field

from endurant.core.fields import Sections, Strict
from endurant.core.messages import Message
from endurant.core.recordings import ForceTrace
from endurant.core.refusals import Invalid


class Dimensions(Strict):
    """Repeated readings of one specimen; the mean is used unless the method says otherwise."""

    width_mm: Sections | None = None
    thickness_mm: Sections | None = None
    diameter_mm: Sections | None = None
    length_mm: Sections | None = None
    remaining_width_mm: Sections | None = None


class Readings(Strict):
    """What is read from one specimen.

    `words_of_codes` spells out the codes of a field, for paper.
    """

    labels_of_codes: ClassVar[dict[str, dict[str, str]]] = {}

    label: str = Field(min_length=1, max_length=64, description="Name of the specimen.")
    direction: str | None = Field(None, min_length=1, max_length=32, description="Way it lay.")
    state: str = Field("original", min_length=1, max_length=64, description="State it was in.")
    dimensions: Dimensions | None = Field(None, description="Repeated readings of its size.")
    observations: list[str] = Field(
        default_factory=list, max_length=32, description="What the technician saw."
    )

    def refuse(self, field: str, code: str, /, **params: object) -> Invalid:
        """Return the refusal of a field of this specimen, to be raised."""
        refusal = Invalid(Message(code, params), field=field, specimen=self.label)
        return refusal.within("reading.in-specimen", specimen=self.label, reading=field)

    def sections(self, name: str) -> list[float]:
        """Return the readings of one dimension; raises Invalid when it was not measured."""
        sizes = getattr(self.dimensions, name) if self.dimensions is not None else None
        if sizes is None:
            raise self.refuse(f"dimensions.{name}", "reading.dimension-missing")
        return list(sizes)


class TraceReadings(Readings):
    """What is read from a specimen that was pulled or pushed."""

    trace: ForceTrace = Field(description="Force over crosshead travel.")
