"""A study for the demo laboratory: a bracket printed in several ways, struck beside each other."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

from endurant.core.judging.criteria import Criterion
from endurant.store import clock
from endurant.work.base.actors import Actor
from endurant.work.use_cases.bench import accepting, readings, uploads
from endurant.work.use_cases.preparation import placement
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.receiving.limits import LimitRequest
from endurant.work.views import job_page, studies

ENERGIES_J = {
    "flat, 0.2 mm layers": (0.214, 0.207, 0.221, 0.199, 0.211),
    "flat, 0.3 mm layers": (0.196, 0.203, 0.188, 0.207, 0.191),
    "on edge": (0.231, 0.226, 0.243, 0.219, 0.236),
    "upright": (0.083, 0.101, 0.072, 0.094, 0.088),
    "upright, annealed": (0.118, 0.127, 0.109, 0.131, 0.121),
    "moulded, for comparison": (0.262, 0.258, 0.271, 0.266, 0.255),
}
"""Energy to break of each bar, in J, by how it was printed."""
STRUCK_ALREADY = 5
BRACKETS = receiving.SampleRequest(
    client="Plinth & Cap Closures",
    product="Hinge bracket, printed",
    lot="HB-2",
    material="polyester filament, printed and milled to bars",
    form="pieces",
    count=12,
    due_at=datetime(2199, 1, 1, tzinfo=UTC),
    tests=[
        receiving.TestRequest(
            method="iso-180",
            parameters={"pendulum_j": 1.0, "friction_j": 0.006, "specimens_wanted": 5},
            limits=[
                LimitRequest(
                    property="impact_strength",
                    direction="",
                    criterion=Criterion(on="mean", op=">=", limit="4.0"),
                )
            ],
        )
    ],
    variants=[receiving.VariantRequest(name=name) for name in ENERGIES_J],
    reports="one",
)


def study_of_prints(technician: Actor, start: datetime, room: int) -> None:
    """Six samples received together; all but the last are struck."""
    with clock.as_if(start - timedelta(hours=100)):
        request = BRACKETS.model_copy(update={"due_at": start + timedelta(days=3.1)})
        first = receiving.receive(technician, request)
    if first.study_id is None:
        return
    for place, sample in enumerate(studies.study(first.study_id).samples):
        test = job_page.job(sample.job.id).tests[0]
        with clock.as_if(start - timedelta(hours=90)):
            ids = [specimen.id for specimen in test.specimens]
            placement.place_specimens(
                technician, room, placement.PlacementRequest(specimen_ids=ids)
            )
        if place >= STRUCK_ALREADY:
            continue
        document = {
            "method": "iso-180",
            "parameters": {},
            "specimens": [
                {
                    "label": specimen.label,
                    "dimensions": {"thickness_mm": [4.01, 4.0], "remaining_width_mm": [8.02, 8.0]},
                    "energy_j": energy_j,
                    "break_type": "C",
                    "temperature_c": 23,
                }
                for specimen, energy_j in zip(
                    test.specimens, ENERGIES_J[sample.variant], strict=False
                )
            ],
        }
        with clock.as_if(start - timedelta(hours=3)):
            files = [("pendulum-hb2.json", json.dumps(document).encode())]
            upload = uploads.keep_upload(technician, test.id, files, None, {})
            brought = readings.ReadingsRequest(upload_id=upload.id)
            readings.bring_in_readings(technician, test.id, brought)
            accepting.accept_all(technician, test.id)
