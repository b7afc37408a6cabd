"""The rules of the laboratory: its name, and how it labels and compares."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from sqlalchemy.orm import Session

from endurant.core.conditioning.periods import Policy
from endurant.core.cutting.sheet import LabelSchool
from endurant.core.judging.verdicts import Comparison
from endurant.core.lab_tables import LabTables, read_tables
from endurant.core.refusals import Invalid
from endurant.core.writing import Writing
from endurant.store.tables import Job, Laboratory

_LABORATORY = "house"


def laboratory(session: Session) -> Laboratory:
    """The laboratory rules; raises Invalid when the database was never set up."""
    lab = known_laboratory(session)
    if lab is None:
        raise Invalid("laboratory.none")
    return lab


def known_laboratory(session: Session) -> Laboratory | None:
    """The laboratory rules, read once by a session; None when the database was never set up."""
    lab: Laboratory | None = session.info.get(_LABORATORY)
    if lab is None:
        lab = session.info[_LABORATORY] = session.get(Laboratory, 1)
    return lab


def comparison_for(lab: Laboratory, job: Job) -> Comparison:
    """How figures are compared with limits: as it was when the job began.

    A job of an earlier release is compared as the laboratory does now.
    """
    kept = (job.lab_settings or {}).get("comparison", lab.comparison)
    return "unrounded" if kept == "unrounded" else "as-rounded"


def rounding_for(lab: Laboratory, job: Job) -> str:
    """How ties are rounded, as it was when the job began."""
    return str((job.lab_settings or {}).get("rounding", lab.rounding))


def policy_for(session: Session, job: Job) -> Policy:
    """What an excursion does to the clock, as it was when the job began."""
    kept = (job.lab_settings or {}).get("policy") or laboratory(session).conditioning_policy
    return "subtract" if kept == "subtract" else "restart"


def tables_of(lab: Laboratory) -> LabTables:
    """The tables of the laboratory as they are now."""
    return _as_read(lab.tables)


def tables_for(job: Job) -> LabTables:
    """The tables of the laboratory as they were when the job began."""
    return _as_read((job.lab_settings or {}).get("tables"))


def _as_read(kept: dict[str, Any] | None) -> LabTables:
    """Tables that were checked when they were kept: most jobs share theirs."""
    return read_tables(None) if kept is None else _read(json.dumps(kept, sort_keys=True))


@lru_cache(64)
def _read(text: str) -> LabTables:
    return read_tables(json.loads(text))


def kept_by_job(
    lab: Laboratory, comparison: Comparison | None, labels: LabelSchool | None
) -> dict[str, Any]:
    """The rules that a job which begins now keeps; some may be asked for with it."""
    request = {"comparison_asked": comparison, "label_school_asked": labels}
    return {name: own for name, own in request.items() if own is not None} | {
        "comparison": comparison or lab.comparison,
        "rounding": lab.rounding,
        "policy": lab.conditioning_policy,
        "tables": lab.tables,
        "written": lab.written,
    }


def writing_of(lab: Laboratory) -> Writing:
    """How the laboratory writes figures and days now."""
    return Writing.model_validate(lab.written or {})


def writing_for(lab: Laboratory, job: Job) -> Writing:
    """How the report of a job is written: as the laboratory did when it began."""
    return Writing.model_validate((job.lab_settings or {}).get("written", lab.written) or {})


def label_school(session: Session) -> LabelSchool:
    """How specimens are labelled here: by the yarn that fails, or by the long side."""
    return school_of(laboratory(session))


def school_for(lab: Laboratory, job: Job) -> LabelSchool:
    """How the specimens of a job are labelled: as was asked for with it, else as here."""
    request = (job.lab_settings or {}).get("label_school_asked")
    return school_of(lab) if request is None else request


def school_of(lab: Laboratory) -> LabelSchool:
    """How specimens are labelled under these rules."""
    return "by-long-side" if lab.label_school == "by-long-side" else "by-failing-yarn"
