"""Stations and runs, live and from files; voids; results."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Response, UploadFile, WebSocket
from pydantic import Field
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from endurant.api.files import csv_response
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right, same_origin, signed_in
from endurant.core.refusals import Refusal
from endurant.work.base.requests import RequestBody
from endurant.work.facts.models import TestView
from endurant.work.use_cases.amending import setting_up
from endurant.work.use_cases.bench import (
    accepting,
    actions,
    densities,
    live,
    observations,
    previous_curves,
    runs,
    scanning,
    sequences,
    stations,
    voids,
)
from endurant.work.views.bench.models import BenchView
from endurant.work.views.stations import StationView

router = APIRouter(route_class=Route, tags=["bench"])

LOOK_EVERY_S = 0.08
LOOKS_BETWEEN_RECORDS = 10
"""Of so many looks one asks the record: whether the line is up, and whether the run is over."""
REFUSED_CODE = 4403
LOOKS_BETWEEN_SESSIONS = 40
"""Looks at a run between two looks at whether its viewer is still signed in."""


class FaultRequest(RequestBody):
    """How the next specimen at a simulated station shall behave."""

    fault: str


class Reason(RequestBody):
    """Why."""

    reason: str = Field(max_length=500)


class TakenBack(RequestBody):
    """The number of the last event that was seen when a slip was taken back."""

    seen: int = Field(ge=0)


@router.get("/stations")
def list_stations(actor: SignedIn) -> list[StationView]:
    """All stations."""
    return stations.stations()


@router.get("/specimens/{specimen_id}/bench")
def look_at_bench(actor: SignedIn, specimen_id: int, station_id: int | None = None) -> BenchView:
    """Where a specimen stands in its test, and the one thing to do next."""
    return actions.look(specimen_id, station_id)


@router.get("/specimens/{specimen_id}/bench/previous-curves")
def earlier_curves(actor: SignedIn, specimen_id: int) -> list[previous_curves.GhostView]:
    """The curves of specimens of the same test that went before."""
    return previous_curves.previous_curves_of(specimen_id)


@router.get("/specimens/{specimen_id}/bench/scanned/{code}")
def scanned_at_bench(actor: SignedIn, specimen_id: int, code: str) -> scanning.Scanned:
    """What a scanned label means while a specimen is in hand."""
    return scanning.scanned(specimen_id, code)


@router.post("/specimens/{specimen_id}/actions", dependencies=[right("test")])
def act_at_bench(actor: SignedIn, specimen_id: int, request: actions.ActionRequest) -> BenchView:
    """Do one thing at the bench; it names the last event that its sender saw."""
    return actions.act(actor, specimen_id, request)


@router.post("/specimens/{specimen_id}/actions/{number}/undo", dependencies=[right("test")])
def take_act_back(actor: SignedIn, specimen_id: int, number: int, request: TakenBack) -> BenchView:
    """A slip of the hand does not count; the event stays in the record."""
    return actions.take_back(actor, specimen_id, number, request.seen)


@router.get("/densities")
def list_densities(actor: SignedIn) -> list[densities.DensityView]:
    """The register of melt densities."""
    return densities.densities()


@router.post("/tests/{test_id}/density", dependencies=[right("approve-densities")], status_code=201)
def enter_density(
    actor: SignedIn, test_id: int, request: densities.FormulationRequest
) -> list[densities.DensityView]:
    """Enter what a test found into the register."""
    return densities.enter_density(actor, test_id, request)


@router.post("/tests/{test_id}/use-density", dependencies=[right("test")])
def use_density(actor: SignedIn, test_id: int, request: densities.FormulationRequest) -> TestView:
    """Set a test up with the density of this very formulation and revision."""
    return densities.use_density(actor, test_id, request)


@router.post("/densities/{density_id}/withdraw", dependencies=[right("approve-densities")])
def withdraw_density(actor: SignedIn, density_id: int) -> list[densities.DensityView]:
    """A density holds no longer."""
    return densities.withdraw_density(actor, density_id)


@router.get("/sequences")
def list_sequences(actor: SignedIn) -> list[sequences.SequenceView]:
    """The sequences of moves that the laboratory keeps."""
    return sequences.sequences()


@router.post("/sequences/interpret")
def understand_moves(actor: SignedIn, request: sequences.MovesRequest) -> sequences.MovesRead:
    """How a text of moves is understood, and the way it takes; nothing is kept."""
    return sequences.understand(request)


@router.post("/sequences", dependencies=[right("test")], status_code=201)
def keep_sequence(actor: SignedIn, request: sequences.SequenceRequest) -> sequences.SequenceView:
    """Keep a sequence of moves as a new revision of its name."""
    return sequences.keep_sequence(actor, request)


@router.post("/stations/{station_id}/simulation", dependencies=[right("test")], status_code=204)
def simulate(actor: SignedIn, station_id: int, request: FaultRequest) -> None:
    """Simulated stations only: how the next specimen shall behave."""
    stations.simulate(actor, station_id, request.fault)


@router.post(
    "/specimens/{specimen_id}/trace",
    dependencies=[reads_up_to(FILE_BYTES), right("test")],
    status_code=201,
)
def bring_in_trace(
    actor: SignedIn,
    specimen_id: int,
    file: Annotated[UploadFile, File()],
    deviation: Annotated[str | None, Form(max_length=300)] = None,
    instrument: Annotated[str, Form(max_length=40)] = "",
) -> runs.RunView:
    """Take the trace of a specimen from a CSV file."""
    name = file.filename or "trace.csv"
    return runs.bring_in(actor, specimen_id, name, file.file.read(), deviation, instrument)


@router.get("/tests/{test_id}/set-up/earlier")
def earlier_set_ups(actor: SignedIn, test_id: int) -> list[setting_up.EarlierSetUp]:
    """What was set up for the same method at each station, the latest first."""
    return setting_up.earlier_set_ups(test_id)


@router.get("/runs/{run_id}")
def show_run(actor: SignedIn, run_id: int) -> runs.RunView:
    """A run with its trace."""
    return runs.run(run_id)


@router.get("/runs/{run_id}/window")
def part_of_run(actor: SignedIn, run_id: int, low: float, high: float) -> runs.WindowView:
    """A part of what is drawn of a run, as fine as the eye sees it."""
    return runs.window(run_id, low, high)


@router.get("/runs/{run_id}/trace.csv", response_class=Response)
def raw_trace(actor: SignedIn, run_id: int) -> Response:
    """The raw samples of a run."""
    name, text = runs.raw_csv(run_id)
    return csv_response(text, name)


@router.post("/runs/{run_id}/stop", dependencies=[right("test")])
def stop_run(actor: SignedIn, run_id: int) -> runs.RunView:
    """Ask the station to stop."""
    return runs.stop(actor, run_id)


@router.post("/runs/{run_id}/accept", dependencies=[right("test")])
def accept_run(actor: SignedIn, run_id: int) -> runs.RunView:
    """Accept a specimen: it counts."""
    return accepting.accept(actor, run_id)


@router.post("/runs/{run_id}/accept/undo", dependencies=[right("test")])
def undo_acceptance(actor: SignedIn, run_id: int) -> runs.RunView:
    """Undo an acceptance: by the person who accepted it, within a minute."""
    return accepting.undo_acceptance(actor, run_id)


@router.post("/specimens/{specimen_id}/note", dependencies=[right("test")], status_code=204)
def note_seen(actor: SignedIn, specimen_id: int, request: observations.NoteRequest) -> None:
    """What was seen of a specimen that still counts."""
    observations.note_seen(actor, specimen_id, request)


@router.post("/specimens/{specimen_id}/void", dependencies=[right("test")], status_code=204)
def void_specimen(actor: SignedIn, specimen_id: int, request: voids.VoidRequest) -> None:
    """The specimen does not count."""
    voids.void(actor, specimen_id, request)


@router.post(
    "/specimens/{specimen_id}/void/withdraw", dependencies=[right("test")], status_code=204
)
def withdraw_void(actor: SignedIn, specimen_id: int, request: Reason) -> None:
    """Take a void back, with a reason."""
    voids.withdraw_void(actor, specimen_id, request.reason)


@router.get("/tests/{test_id}/document.json")
def test_document(actor: SignedIn, test_id: int) -> dict[str, Any]:
    """The test document with its raw traces."""
    return runs.export_document(test_id)


@router.get("/runs/{run_id}/samples")
def new_samples(actor: SignedIn, run_id: int, first: int = 0) -> live.LivePiece:
    """What is new of a run from sample `first` on, for those who cannot keep a socket open."""
    return live.live_piece(run_id, first)


@router.websocket("/runs/{run_id}/live")
async def follow_run(socket: WebSocket, run_id: int, first: int = 0) -> None:
    """Samples as they come, to everyone who looks, until the run is over.

    What this process carries is shown as it arrives; the rest is read from the record, so that
    any web process can show what another one carries.
    """
    await socket.accept()
    gone = asyncio.create_task(_until_gone(socket))
    try:
        if not same_origin(socket):
            await socket.close(REFUSED_CODE, "sent by a page of another site")
            return
        await run_in_threadpool(signed_in, socket)
        shown, looks = "", 0
        while not gone.done():
            looks += 1
            if looks % LOOKS_BETWEEN_SESSIONS == 0:
                await run_in_threadpool(signed_in, socket)
            # What arrives here is shown at once; how the run stands, the record says.
            asks_record = looks % LOOKS_BETWEEN_RECORDS == 1
            piece = None if asks_record else live.arrived_piece(run_id, first)
            if piece is None:
                piece = await run_in_threadpool(live.live_piece, run_id, first)
            wording = f"{piece.state} {piece.line} {max(piece.samples, first)}"
            if wording != shown:
                await socket.send_text(piece.model_dump_json())
                shown, first = wording, max(piece.samples, first)
            if piece.state != "running":
                await socket.close()
                return
            await asyncio.sleep(LOOK_EVERY_S)
    except Refusal as refusal:
        await socket.close(REFUSED_CODE, refusal.sentence[:120])
    except WebSocketDisconnect:
        return
    finally:
        gone.cancel()


async def _until_gone(socket: WebSocket) -> None:
    """Wait until the viewer, or the server, has closed the socket: a paused run says nothing."""
    while (await socket.receive())["type"] != "websocket.disconnect":
        pass
