"""One test and one specimen as a page asks for them."""

from __future__ import annotations

from sqlalchemy import select

from endurant.store.tables import Specimen
from endurant.work.base.transactions import transaction
from endurant.work.facts.models import SpecimenView, TestView
from endurant.work.facts.status import (
    test_or_refuse,
)
from endurant.work.facts.test_status import test_view


def test(test_id: int) -> TestView:
    """One test with its specimens and rows; raises NotFound."""
    with transaction() as session:
        return test_view(session, test_or_refuse(session, test_id))


def find_specimen(code: str) -> SpecimenView | None:
    """The specimen with this code, as scanned or typed in capitals or small letters."""
    with transaction() as session:
        specimen = session.scalar(select(Specimen).where(Specimen.code == code.strip().upper()))
        if specimen is None:
            return None
        view = test_view(session, specimen.test)
        return next(member for member in view.specimens if member.id == specimen.id)


def test_id_of(specimen_id: int) -> int:
    """The test that a specimen belongs to."""
    with transaction() as session:
        return session.scalar(select(Specimen.test_id).where(Specimen.id == specimen_id)) or 0
