"""What is done to a specimen before conditioning, such as mounting: confirmed as it is hung."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy.orm import Session

from endurant.core.bench.events import Event
from endurant.core.bench.picture import by_hand, checks_of
from endurant.core.bench.pictures import picture_of
from endurant.core.bench.procedure import Act
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.tables import Specimen
from endurant.work.bench.happenings import EARLY, state_at_bench, write_event
from endurant.work.jobs.calling import due_of
from endurant.work.record.people import Actor


def early_acts(specimen: Specimen) -> list[Act]:
    """What has to be done to a specimen before it is hung, in the round that it is called for."""
    test = specimen.test
    method, due = find_method(test.method), due_of(specimen)
    aims = {**test.parameters, **(due.presets if due else {})}
    return by_hand(checks_of(picture_of(method), method, aims), early=True)


def confirm_early(
    session: Session, actor: Actor, specimen: Specimen, confirmed: Collection[str]
) -> None:
    """Write down what was done to a specimen before it is hung; raises Invalid where it was not."""
    acts = early_acts(specimen)
    if specimen.stays or not acts:
        return
    state = state_at_bench(session, specimen)
    number = state.last
    for act in acts:
        if act.code in state.done:
            continue
        if act.code not in confirmed:
            raise Invalid(
                f"{specimen.code}: “{act.title}” is not confirmed. Confirm it before conditioning",
                field="confirmed",
                specimen=specimen.label,
            )
        number += 1
        facts = {EARLY: True, "confirmed": list(act.confirms)}
        write_event(
            session,
            specimen.id,
            Event(number, act.code, clock.now(), actor.name, facts),
            actor=actor,
        )
