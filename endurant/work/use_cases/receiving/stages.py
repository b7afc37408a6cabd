"""The conditioning that is requested for a test, where it is not what the method asks for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.conditioning.chains import Stage
from endurant.work.base.requests import RequestBody

Minutes = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]
SpecimenState = Literal["original", "wet"]


class StageRequest(RequestBody):
    """One stage: the id of an atmosphere, times in minutes; see core.conditioning.chains.Stage."""

    atmosphere: str
    least_minutes: Minutes
    most_wait_minutes: Minutes | None = None
    why: str = Field("", max_length=120)

    def stage(self) -> Stage:
        """Return the stage. Raises Invalid for an atmosphere that is not known."""
        find_atmosphere(self.atmosphere)
        return Stage(**self.model_dump())
