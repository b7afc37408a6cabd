"""A label that is scanned at the bench: the right specimen, another one, or one that must wait."""

from __future__ import annotations

from sqlalchemy import select

from endurant.core.quoting import quoted
from endurant.store.tables import Specimen
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.bench_events import state_at_bench
from endurant.work.facts.status import last_run, open_void, specimen_or_refuse


class Scanned(View):
    """What a scan means here: `right` where it names the specimen in hand, else where it leads.

    `specimen_id` and `job_id` are None where it leads nowhere: what is in hand comes first.
    """

    right: bool
    text: str
    specimen_id: int | None
    job_id: int | None


def scanned(in_hand_id: int, code: str) -> Scanned:
    """What a code means while a specimen is in hand. Raises NotFound for no such specimen."""
    with transaction() as session:
        in_hand = specimen_or_refuse(session, in_hand_id)
        other = session.scalar(select(Specimen).where(Specimen.code == code.strip().upper()))
        if other is None:
            return _periods(f"No specimen has the code {quoted(code)}.")
        if other.id == in_hand.id:
            return Scanned(
                right=True,
                text=f"{other.label}: this is the current specimen.",
                specimen_id=None,
                job_id=None,
            )
        state = state_at_bench(session, in_hand)
        run = last_run(in_hand)
        is_through = run is not None and run.state in ("ended", "settled")
        if state.done and not is_through and open_void(in_hand) is None:
            return _periods(
                f"That is {other.code}, but {in_hand.code} is in hand. Finish it or set it aside "
                "first."
            )
        return Scanned(
            right=False,
            text=f"{other.code}",
            specimen_id=other.id,
            job_id=other.test.job_id,
        )


def _periods(message: str) -> Scanned:
    return Scanned(right=False, text=message, specimen_id=None, job_id=None)
