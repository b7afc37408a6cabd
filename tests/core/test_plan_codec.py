"""Moments of planning documents: text in one place, and moments everywhere else."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pytest

import endurant.core.planning
from endurant.core.planning.codec import moment_of, text_of


def test_a_moment_is_written_in_utc_with_a_z() -> None:
    east = timezone(timedelta(hours=2))
    assert text_of(datetime(2026, 3, 2, 10, 30, tzinfo=east)) == "2026-03-02T08:30:00Z"


def test_what_was_written_is_read_as_it_was() -> None:
    moment = datetime(2026, 3, 2, 8, 30, 15, tzinfo=UTC)
    assert moment_of(text_of(moment)) == moment
    assert moment_of("2026-03-02T10:30:15+02:00") == moment


def test_text_that_is_no_moment_is_refused() -> None:
    with pytest.raises(ValueError, match="Invalid isoformat"):
        moment_of("tomorrow")


def test_no_other_module_of_planning_reads_or_writes_iso_text() -> None:
    folder = Path(endurant.core.planning.__file__).parent
    found = [path.name for path in folder.glob("*.py") if "isoformat" in path.read_text()]
    assert found == ["codec.py"]
