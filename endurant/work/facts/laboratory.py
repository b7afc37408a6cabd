"""The rules of the laboratory: its name, and how it labels and compares."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from sqlalchemy.orm import Session

from endurant.core.conditioning.stays import Policy
from endurant.core.cutting.sheet import LabelSchool
from endurant.core.house_tables import HouseTables, read_tables
from endurant.core.judging.verdicts import Comparison
from endurant.core.refusals import Invalid
from endurant.core.writing import Writing
from endurant.store.tables import Job, Laboratory

_HOUSE = "house"


def laboratory(session: Session) -> Laboratory:
    """The laboratory rules; raises Invalid when the database was never set up."""
    house = known_house(session)
    if house is None:
        raise Invalid("laboratory.none")
    return house


def known_house(session: Session) -> Laboratory | None:
    """The laboratory rules, read once by a session; None when the database was never set up."""
    house: Laboratory | None = session.info.get(_HOUSE)
    if house is None:
        house = session.info[_HOUSE] = session.get(Laboratory, 1)
    return house


def comparison_for(house: Laboratory, job: Job) -> Comparison:
    """How figures are compared with limits: as it was when the job began.

    A job of an earlier release is compared as the laboratory does now.
    """
    kept = (job.house or {}).get("comparison", house.comparison)
    return "unrounded" if kept == "unrounded" else "as-rounded"


def rounding_for(house: Laboratory, job: Job) -> str:
    """How ties are rounded, as it was when the job began."""
    return str((job.house or {}).get("rounding", house.rounding))


def policy_for(session: Session, job: Job) -> Policy:
    """What an excursion does to the clock, as it was when the job began."""
    kept = (job.house or {}).get("policy") or laboratory(session).conditioning_policy
    return "subtract" if kept == "subtract" else "restart"


def tables_of(house: Laboratory) -> HouseTables:
    """The tables of the laboratory as they are now."""
    return _as_read(house.tables)


def tables_for(job: Job) -> HouseTables:
    """The tables of the laboratory as they were when the job began."""
    return _as_read((job.house or {}).get("tables"))


def _as_read(kept: dict[str, Any] | None) -> HouseTables:
    """Tables that were checked when they were kept: most jobs share theirs."""
    return read_tables(None) if kept is None else _read(json.dumps(kept, sort_keys=True))


@lru_cache(64)
def _read(text: str) -> HouseTables:
    return read_tables(json.loads(text))


def kept_by_job(
    house: Laboratory, comparison: Comparison | None, labels: LabelSchool | None
) -> dict[str, Any]:
    """The rules that a job which begins now keeps; some may be asked for with it."""
    request = {"comparison_asked": comparison, "label_school_asked": labels}
    return {name: own for name, own in request.items() if own is not None} | {
        "comparison": comparison or house.comparison,
        "rounding": house.rounding,
        "policy": house.conditioning_policy,
        "tables": house.tables,
        "written": house.written,
    }


def writing_of(house: Laboratory) -> Writing:
    """How the laboratory writes figures and days now."""
    return Writing.model_validate(house.written or {})


def writing_for(house: Laboratory, job: Job) -> Writing:
    """How the report of a job is written: as the laboratory did when it began."""
    return Writing.model_validate((job.house or {}).get("written", house.written) or {})


def label_school(session: Session) -> LabelSchool:
    """How specimens are labelled here: by the yarn that fails, or by the long side."""
    return school_of(laboratory(session))


def school_for(house: Laboratory, job: Job) -> LabelSchool:
    """How the specimens of a job are labelled: as was asked for with it, else as here."""
    request = (job.house or {}).get("label_school_asked")
    return school_of(house) if request is None else request


def school_of(house: Laboratory) -> LabelSchool:
    """How specimens are labelled under these rules."""
    return "by-long-side" if house.label_school == "by-long-side" else "by-failing-yarn"
