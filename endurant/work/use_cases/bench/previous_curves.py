"""The curves of specimens that went before, faint under the one that is run now."""

from __future__ import annotations

from endurant.core.trace import thin
from endurant.store.tables import Run, Specimen
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.status import last_run, open_void, specimen_or_refuse
from endurant.work.use_cases.bench.live import drawn_columns, stored_table

MAX_GHOSTS = 3
POINTS = 400


class GhostView(View):
    """The curve of an earlier specimen, thinned for the eye."""

    label: str
    x: list[float]
    y: list[float]


def previous_curves_of(specimen_id: int) -> list[GhostView]:
    """The last specimens of the same test and direction that were kept. Raises NotFound."""
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        kept = [
            run
            for other in specimen.test.specimens
            if other.direction == specimen.direction and (run := _kept_run(other)) is not None
            if other.id != specimen.id
        ]
        latest = sorted(kept, key=lambda run: run.id)[-MAX_GHOSTS:]
        previous_curves = []
        for run in latest:
            x, y = thin(*drawn_columns(run, stored_table(session, run)), POINTS)
            previous_curves.append(GhostView(label=run.specimen.label, x=x.tolist(), y=y.tolist()))
        return previous_curves


def _kept_run(specimen: Specimen) -> Run | None:
    run = last_run(specimen)
    if run is None or run.state != "settled" or open_void(specimen) is not None:
        return None
    is_recorded = run.station_id is not None and run.samples > 0
    return run if is_recorded else None
