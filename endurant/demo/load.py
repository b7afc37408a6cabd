"""Loading the demo laboratory: jobs in every state, all at times relative to this moment."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

from endurant.demo.laboratory import (
    FILM_ROOM,
    PLASTICS_ROOM,
    ROOMS,
    fill_log,
    found_demo_laboratory,
)
from endurant.demo.office import keep_clients, keep_products, open_complaint
from endurant.demo.prints import study_of_prints
from endurant.demo.samples import (
    BARS,
    BOAT,
    CARTONS,
    COVER,
    COVER_AREAS,
    COVERS,
    DARTS,
    FLANNEL,
    JOBS,
    LAMINATE,
    MOULDED,
    PALLETS,
    PELLETS,
    PRINTED,
    RESIN,
    SACK,
    SEAMS,
    STRAP,
    TURNED,
    DemoJob,
)
from endurant.demo.walk import Walk
from endurant.store import clock
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import cards_at_the_end
from endurant.work.upkeep.rebuild import rebuild
from endurant.work.use_cases.bench import accepting, readings, uploads
from endurant.work.use_cases.preparation import measuring, placement
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.sheets import cutting
from endurant.work.views import job_page
from endurant.work.views.guides import example_document

BEFORE_CONDITIONING = ["mounted", "brushed"]
"""What is done to flame strips before conditioning; no other test needs anything."""


def load_demo(frame_host: str, frame_port: int, jobs_to_load: tuple[DemoJob, ...] = JOBS) -> None:
    """Found the laboratory in an empty database and bring every job to its state."""
    with cards_at_the_end():
        _load(frame_host, frame_port, jobs_to_load)
    rebuild()


def _load(frame_host: str, frame_port: int, jobs_to_load: tuple[DemoJob, ...]) -> None:
    start = datetime.now(UTC)
    with clock.as_if(start - timedelta(days=30)):
        laboratory = found_demo_laboratory(frame_host, frame_port, start)
    people, rooms = laboratory.people, laboratory.rooms
    for name, _, logger, _ in ROOMS:
        if logger:
            fill_log(rooms[name], logger, start, warm=name == FILM_ROOM)
    for job in jobs_to_load:
        Walk(job, start, people, rooms["Textile room"], laboratory.frame).go()
    if jobs_to_load:
        laminate = lay_out(people["ines"], start - timedelta(hours=19), LAMINATE, [])
        with clock.as_if(start - timedelta(hours=20)):
            cut_and_place(people["ines"], laminate, rooms[FILM_ROOM])
        lay_out(people["ines"], start, COVER, COVER_AREAS)
        pieces(people["ines"], start, BOAT, rooms["Textile room"])
        pieces(people["ines"], start, SACK, rooms["Paper room"])
        pieces(people["ines"], start, BARS, None, TURNED)
        pieces(people["ines"], start, COVERS, rooms[PLASTICS_ROOM], MOULDED)
        pieces(people["ines"], start, SEAMS, rooms["Textile room"])
        pieces(people["ines"], start, STRAP, rooms[PLASTICS_ROOM])
        pieces(people["ines"], start, PALLETS, None)
        pieces(people["ines"], start, PELLETS, None)
        pieces(people["ines"], start, CARTONS, None)
        pieces(people["ines"], start, PRINTED, None)
        pieces(people["ines"], start, DARTS, rooms[FILM_ROOM])
        bring_in(people["ines"], start, RESIN, "balance-rg12.json", keep=False)
        bring_in(people["ines"], start, FLANNEL, "hood-n77.json", keep=True)
        study_of_prints(people["ines"], start, rooms[PLASTICS_ROOM])
        keep_clients(people, start)
        keep_products(people, start)
        open_complaint(people, start)


def lay_out(
    technician: Actor,
    start: datetime,
    sample: receiving.SampleRequest,
    areas: list[cutting.AreaRequest],
) -> int:
    """A sample with many tests whose specimens are placed and not cut yet."""
    with clock.as_if(start - timedelta(hours=3)):
        request = sample.model_copy(update={"due_at": start + timedelta(days=4.2)})
        job = receiving.receive(technician, request)
        sheet = cutting.sheet(job.id)
        if areas:
            sheet = cutting.mark_areas(technician, job.id, areas, sheet.revision)
        cutting.place_all(technician, job.id, sheet.revision, cutting.PlaceRequest(seconds=0))
        return job.id


def pieces(
    technician: Actor,
    start: datetime,
    sample: receiving.SampleRequest,
    room: int | None,
    sizes: dict[str, list[float]] | None = None,
) -> None:
    """A sample that came as ready specimens, long enough in its room to be tested now."""
    with clock.as_if(start - timedelta(hours=100)):
        request = sample.model_copy(update={"due_at": start + timedelta(days=2.8)})
        specimens = receiving.receive(technician, request).tests[0].specimens
        if room is not None:
            ids = [specimen.id for specimen in specimens]
            placement.place_specimens(
                technician,
                room,
                placement.PlacementRequest(specimen_ids=ids, confirmed=BEFORE_CONDITIONING),
            )
    with clock.as_if(start - timedelta(hours=2)):
        for specimen in specimens if sizes else []:
            measuring.measure(
                technician,
                specimen.id,
                measuring.SizesRequest(dimensions=sizes or {}, revision=specimen.revision),
            )


def cut_and_place(technician: Actor, job_id: int, room: int) -> None:
    """Confirm the cut of a sheet, and place its specimens."""
    cutting.confirm_cut(technician, job_id, cutting.sheet(job_id).revision)
    ids = [specimen.id for test in job_page.job(job_id).tests for specimen in test.specimens]
    placement.place_specimens(
        technician,
        room,
        placement.PlacementRequest(specimen_ids=ids, confirmed=BEFORE_CONDITIONING),
    )


def bring_in(
    technician: Actor, start: datetime, sample: receiving.SampleRequest, file_name: str, keep: bool
) -> None:
    """A sample whose readings came from another instrument: the method's worked example."""
    with clock.as_if(start - timedelta(hours=6)):
        request = sample.model_copy(update={"due_at": start + timedelta(days=2.2)})
        test = receiving.receive(technician, request).tests[0]
    document = example_document(test.method)[1]
    planned = list(test.specimens)
    for specimen in document["specimens"]:
        own = specimen.get("direction", "")
        unused = next(
            (specimen for specimen in planned if not own or specimen.direction == own), None
        )
        if unused is not None:
            specimen["label"] = unused.label
            planned.remove(unused)
    with clock.as_if(start - timedelta(hours=1)):
        why = "dried and cooled beside the hood, before the oven had its logger"
        reason = why if test.method == FLANNEL.tests[0].method else None
        data = json.dumps(document).encode()
        upload = uploads.keep_upload(technician, test.id, [(file_name, data)], None, {})
        brought = readings.ReadingsRequest(upload_id=upload.id, deviation=reason)
        readings.bring_in_readings(technician, test.id, brought)
        if keep:
            accepting.accept_all(technician, test.id)
