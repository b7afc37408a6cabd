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
from endurant.store.tables import Specimen, Test
from endurant.work.bench.happenings import EARLY, state_at_bench, write_event
from endurant.work.record.people import Actor


def early_acts(test: Test) -> list[Act]:
    """What has to be done to each specimen of a test before it is hung."""
    method = find_method(test.method)
    return by_hand(checks_of(picture_of(method), method, test.parameters), early=True)


def confirm_early(
    session: Session, actor: Actor, specimen: Specimen, confirmed: Collection[str]
) -> None:
    """Write down what was done to a specimen before it is hung; raises Invalid where it was not."""
    if specimen.stays or not early_acts(specimen.test):
        return
    state = state_at_bench(session, specimen)
    number = state.last
    for act in early_acts(specimen.test):
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
