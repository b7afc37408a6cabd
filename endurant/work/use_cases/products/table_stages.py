"""Stages of conditioning as a cell of the table of products holds them."""

from __future__ import annotations

import re
from collections.abc import Sequence

from pydantic import ValidationError

from endurant.core.complaints import message_of
from endurant.core.conditioning.chains import Stage
from endurant.core.refusals import Invalid
from endurant.work.use_cases.receiving.stages import StageRequest

NO_STAGES = "none"
_STAGE = re.compile(
    r"(?P<atmosphere>\S+) (?P<least_minutes>[\d.,]+) min"
    r"(, next within (?P<most_wait_minutes>[\d.,]+) min)?( \((?P<why>.*)\))?",
    re.DOTALL,
)
_BETWEEN = re.compile(r";\s*(?![^(]*\))")
"""The semicolon after a stage; one in the reason of a stage, in brackets, parts nothing."""


def stages_text(stages: Sequence[Stage] | None) -> str:
    """Return stages as a cell holds them; empty where the method's own are meant.

    "chamber 30 min, next within 15 min; textile-20-65 1440 min" is two; "none" is no conditioning.
    """
    if stages is None:
        return ""
    return "; ".join(map(_stage_text, stages)) or NO_STAGES


def stages_from(text: str) -> list[Stage] | None:
    """Return the stages of a cell that `stages_text` wrote; None where the method's are meant.

    Raises Invalid for one that cannot be read, or whose atmosphere is not known.
    """
    if text in ("", NO_STAGES):
        return [] if text else None
    return [_stage(part) for part in _BETWEEN.split(text) if part.strip()]


def _stage_text(stage: Stage) -> str:
    wait = stage.most_wait_minutes
    within = "" if wait is None else f", next within {wait:.15g} min"
    why = f" ({stage.why})" if stage.why else ""
    return f"{stage.atmosphere} {stage.least_minutes:.15g} min{within}{why}"


def _stage(text: str) -> Stage:
    read = _STAGE.fullmatch(text.strip())
    if read is None:
        raise Invalid("products.stage-form", given=text.strip())
    given = {name: value for name, value in read.groupdict().items() if value}
    for name in given.keys() & {"least_minutes", "most_wait_minutes"}:
        given[name] = given[name].replace(",", ".")
    try:
        return StageRequest.model_validate(given).stage()
    except ValidationError as error:
        raise Invalid(message_of(error.errors()[0], "")) from error
