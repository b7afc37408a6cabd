"""The day on paper: what each person does by hand until tomorrow night."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from endurant.core.refusals import NotFound
from endurant.core.writing import Writing
from endurant.store import clock
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.laboratory import laboratory, writing_of
from endurant.work.use_cases.planning.today import LaneView, TroubleView, day_now


class PrintedDay(View):
    """The day as it is printed: a list for each person, and what is late."""

    laboratory: str
    made_at: datetime | None
    last_day: date
    lanes: list[LaneView]
    late: list[TroubleView]
    tell: list[str]
    writing: Writing


def printed_day(name: str | None) -> PrintedDay:
    """What is done by hand until tomorrow night, person by person. Raises NotFound for nobody."""
    with transaction() as session:
        now = clock.now()
        view, lab = day_now(session, now), laboratory(session)
        here = now.astimezone()
        until = (here + timedelta(days=2)).replace(hour=0, minute=0, second=0, microsecond=0)
        people = [lane for lane in view.lanes if lane.kind == "person"]
        lanes = [lane for lane in people if name is None or lane.name == name]
        if name is not None and not lanes:
            raise NotFound("person.name-unknown", person=name)
        return PrintedDay(
            laboratory=lab.name,
            made_at=view.made_at,
            last_day=(here + timedelta(days=1)).date(),
            lanes=[
                lane.model_copy(
                    update={"blocks": [block for block in lane.blocks if block.begins < until]}
                )
                for lane in lanes
            ],
            late=view.late,
            tell=view.tell,
            writing=writing_of(lab),
        )
