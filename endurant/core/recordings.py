"""What a device records of one specimen: channels of equal length."""

from __future__ import annotations

from typing import Self

import numpy as np
from pydantic import model_validator

from endurant.core.columns import Channels, Column, StrainColumn
from endurant.core.complaints import complaint
from endurant.core.fields import Strict
from endurant.core.trace import Samples

MAX_SAMPLES = 1_000_000


class TraceColumns(Strict):
    """The columns of one trace, of equal length; a method's own trace says which it needs.

    Each column is read as an array of float64, shape (n,). `strain` is mm/mm, NaN once the
    extensometer is off; `displacement_mm` is a list of channels.
    """

    time_s: Column | None = None
    extension_mm: Column | None = None
    force_n: Column | None = None
    strain: StrainColumn | None = None
    pressure_kpa: Column | None = None
    height_mm: Column | None = None
    displacement_mm: Channels | None = None

    @model_validator(mode="after")
    def _makes_sense(self) -> Self:
        """Columns of equal length, two samples or more, and time that does not fall."""
        lengths = {name: len(column) for name, column in self._single()}
        for number, channel in enumerate(self.displacement_mm or [], start=1):
            lengths[f"displacement_mm channel {number}"] = len(channel)
        if not lengths:
            raise complaint("trace.no-column", field="trace")
        first, expected = next(iter(lengths.items()))
        for name, length in lengths.items():
            if length != expected:
                raise complaint(
                    "trace.lengths-differ",
                    column=name,
                    count=length,
                    first=first,
                    expected=expected,
                    field=name.split()[0],
                )
        if expected < 2:
            raise complaint("trace.too-short", count=expected, field=first)
        if expected > MAX_SAMPLES:
            raise complaint("trace.too-long", count=expected, max=MAX_SAMPLES, field=first)
        if self.time_s is not None and bool((falls := np.diff(self.time_s) < 0).any()):
            row = int(np.argmax(falls)) + 2
            raise complaint("trace.time-falls", sample=row, field="time_s")
        return self

    def _single(self) -> list[tuple[str, Samples]]:
        """The columns of one channel, force and extension first."""
        order = ("extension_mm", "force_n", "pressure_kpa", "time_s", "strain", "height_mm")
        return [(name, getattr(self, name)) for name in order if getattr(self, name) is not None]


class ForceTrace(TraceColumns):
    """A trace of a pull or a push: force over crosshead travel."""

    extension_mm: Column
    force_n: Column
