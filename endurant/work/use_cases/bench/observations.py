"""What was seen of a specimen that still counts: it broke at the spring, a knife slipped."""

from __future__ import annotations

from pydantic import Field

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.methods.voids import observations_of
from endurant.core.refusals import Conflict, Invalid
from endurant.store.audit import record
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.results import noted
from endurant.work.facts.status import last_run, refuse_released, specimen_or_refuse


class NoteRequest(RequestBody):
    """A code that was seen, or was not after all."""

    code: str = Field(max_length=40)
    seen: bool


def note_seen(actor: Actor, specimen_id: int, request: NoteRequest) -> None:
    """Keep what was seen with the specimen; it counts as its method says.

    Raises Invalid for a code that voids, Conflict for a specimen that was not tested.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        codes = {
            observation.code: observation.title
            for observation in observations_of(find_method(specimen.test.method))
            if observation.severity != "void"
        }
        if request.code not in codes:
            known = ", ".join(codes) or "none"
            raise Invalid("observation.unknown", code=request.code, known=known, field="code")
        run = last_run(specimen)
        if run is None or run.state not in ("ended", "settled"):
            raise Conflict("observation.no-run", code=specimen.code)
        before = noted(run)
        after = [code for code in before if code != request.code]
        after += [request.code] if request.seen else []
        run.other_readings = {**(run.other_readings or {}), "observations": after}
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="note",
            entity="run",
            entity_id=run.id,
            job_id=job.id,
            message=Message(
                "audit.note" if request.seen else "audit.note-withdrawn",
                {"actor": actor.name, "label": specimen.label, "observation": codes[request.code]},
            ),
            before={"observations": before},
            after={"observations": after},
        )
