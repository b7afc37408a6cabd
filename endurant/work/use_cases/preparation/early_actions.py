"""What is done to a specimen before conditioning, confirmed as it is placed."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy.orm import Session

from endurant.core.bench.events import Event
from endurant.core.refusals import Invalid
from endurant.store import clock
from endurant.store.tables import Specimen
from endurant.work.base.actors import Actor
from endurant.work.facts.bench_events import EARLY, state_at_bench
from endurant.work.facts.early_actions import early_acts
from endurant.work.use_cases.bench_record.events import write_event


def confirm_early(
    session: Session, actor: Actor, specimen: Specimen, confirmed: Collection[str]
) -> None:
    """Record what was done to a specimen before it is placed; raises Invalid if it was not done."""
    actions = early_acts(specimen)
    if specimen.periods or not actions:
        return
    state = state_at_bench(session, specimen)
    number = state.last
    for act in actions:
        if act.code in state.done:
            continue
        if act.code not in confirmed:
            raise Invalid(
                "bench.action-unconfirmed",
                code=specimen.code,
                action=act.title,
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
