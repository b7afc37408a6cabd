"""What a device records of one specimen: channels of equal length."""

from __future__ import annotations

from typing import Self

import numpy as np
from pydantic import model_validator

from endurant.core.columns import Channels, Column, StrainColumn, refuse_column
from endurant.core.fields import Strict
from endurant.core.trace import Samples

MOST_SAMPLES = 1_000_000


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
            raise refuse_column("trace", "holds no column")
        first, expected = next(iter(lengths.items()))
        for name, length in lengths.items():
            if length != expected:
                raise refuse_column(
                    name.split()[0],
                    f"{name} has {length} samples, {first} has {expected}; "
                    "the columns of a trace are equally long",
                )
        if expected < 2:
            raise refuse_column(first, f"the trace has {expected} samples; two at least are needed")
        if expected > MOST_SAMPLES:
            raise refuse_column(
                first, f"the trace has {expected} samples; {MOST_SAMPLES} at most are read"
            )
        if self.time_s is not None and bool((falls := np.diff(self.time_s) < 0).any()):
            row = int(np.argmax(falls)) + 2
            raise refuse_column("time_s", f"time_s falls at sample {row}; time runs on")
        return self

    def _single(self) -> list[tuple[str, Samples]]:
        """The columns of one channel, force and extension first."""
        order = ("extension_mm", "force_n", "pressure_kpa", "time_s", "strain", "height_mm")
        return [(name, getattr(self, name)) for name in order if getattr(self, name) is not None]


class ForceTrace(TraceColumns):
    """A trace of a pull or a push: force over crosshead travel."""

    extension_mm: Column
    force_n: Column
