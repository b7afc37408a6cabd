"""The procedures of the bench by name; a method names its own in its guide."""

from __future__ import annotations

from collections.abc import Mapping

from endurant.core.bench.burn import BurnProcedure
from endurant.core.bench.burst import BurstProcedure
from endurant.core.bench.cuts import CutsProcedure
from endurant.core.bench.leak import LeakProcedure
from endurant.core.bench.procedure import Procedure
from endurant.core.bench.rig import RigProcedure
from endurant.core.bench.series import SeriesProcedure
from endurant.core.bench.swing import SwingProcedure
from endurant.core.bench.trace import TraceProcedure
from endurant.core.bench.weigh import WeighProcedure
from endurant.core.devices import IndicatorKind, StationKind
from endurant.core.methods.guide import BenchProcedure
from endurant.core.methods.method import Method
from endurant.core.refusals import Conflict

PROCEDURES: Mapping[BenchProcedure, Procedure] = {
    "trace": TraceProcedure(),
    "paired-trace": TraceProcedure(),
    "burst": BurstProcedure(),
    "rig": RigProcedure(),
    "weigh": WeighProcedure(),
    "swing": SwingProcedure(),
    "staircase": SeriesProcedure(),
    "looks": SeriesProcedure(),
    "grades": SeriesProcedure(),
    "drops": SeriesProcedure(),
    "leak": LeakProcedure(),
    "burn": BurnProcedure(),
    "cuts": CutsProcedure(),
}

INDICATORS: Mapping[BenchProcedure, IndicatorKind] = {
    "swing": "pendulum",
    "cuts": "melt-rig",
    "staircase": "dart-tower",
    "burn": "flame-cabinet",
    "looks": "rub-rig",
    "grades": "rub-rig",
    "drops": "drop-tester",
    "leak": "vacuum-jar",
}
"""What a procedure without a recorder is worked at, unless the guide names another device."""


def station_kind_of(method: Method) -> StationKind | None:
    """Return the kind of device that a method is worked at; None where a balance and a clock do."""
    if method.guide.station:
        return method.guide.station
    return PROCEDURES[method.guide.bench].device or INDICATORS.get(method.guide.bench)


def procedure_of(method: Method) -> Procedure:
    """The procedure that runs a method; raises Conflict for one that the bench does not run."""
    if not method.runs_live:
        raise Conflict("bench.no-procedure", method=method.title)
    return PROCEDURES[method.guide.bench]
