"""Reports that an earlier release stored are read by this one."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

import pytest
from pydantic import BaseModel

from endurant.work.facts.conditioning_progress import conditioning_facts
from endurant.work.facts.models import Event, JobLine, JudgedRow, LimitRuleView, TestView, VoidView
from endurant.work.facts.run_facts import ConditioningFacts
from tests.work.rows import NOW, a_job, place_in, specimen

VOID = {"code": "set-aside", "title": "Excluded", "by": "Ines", "at": NOW.isoformat()}
LINE = {
    "id": 1,
    "number": "J-0001",
    "client": "Quay Awnings",
    "product": "Cloth",
    "lot": "7",
    "due_at": NOW.isoformat(),
    "stage": "judged",
    "tested": 20,
    "verdict": "meets",
    "next_code": "judge",
}
RULE = {"low": 0, "high": 1, "ticks": [], "stretches": [], "limits": [], "values": [], "voids": []}


@pytest.mark.parametrize(
    ("model", "stored", "read"),
    [
        (VoidView, VOID | {"words": "nicked"}, {"remark": "nicked"}),
        (
            Event,
            {"at": NOW.isoformat(), "who": "Ines", "code": "void", "words": "voided W1"},
            {"text": "voided W1"},
        ),
        (
            JobLine,
            LINE | {"wanted": 20, "next_words": "Review", "next_place": "judge", "trouble": "no"},
            {"required": 20, "next_text": "Review", "next_screen": "judge", "problem": "no"},
        ),
    ],
)
def test_a_field_is_read_by_the_name_it_was_stored_by(
    model: type[BaseModel], stored: dict[str, Any], read: dict[str, Any]
) -> None:
    loaded = model.model_validate_json(json.dumps(stored))
    assert loaded.model_dump(include=set(read)) == read
    again = model.model_validate_json(loaded.model_dump_json())
    assert again == loaded


@pytest.mark.parametrize("model", [JudgedRow, LimitRuleView, TestView])
def test_fields_of_results_have_their_older_names(model: type[BaseModel]) -> None:
    older = {"limit_text": "limit_words", "required": "wanted", "problem": "trouble"}
    renamed = set(older) & set(model.model_fields)
    assert renamed
    for name in renamed:
        alias = model.model_fields[name].validation_alias
        assert list(getattr(alias, "choices", [])) == [name, older[name]]


def test_the_conditioning_of_a_run_is_read_by_all_three_sets_of_names() -> None:
    w1 = specimen(a_job(), "W1")
    place_in(w1, 25)
    facts = conditioning_facts(w1, NOW)
    assert facts is not None
    now = facts.model_dump(mode="json")

    def renamed(names: dict[str, str], row: dict[str, Any]) -> dict[str, Any]:
        return {
            names.get(key, key): [renamed(names, each) for each in value]
            if key == "periods"
            else value
            for key, value in row.items()
        }

    before = renamed({"placed_at": "hung_at", "is_complete": "served", "periods": "stays"}, now)
    first = renamed(
        {"placed_at": "from", "until": "to", "is_complete": "served", "periods": "stays"}, now
    )
    assert "hung_at" in before
    assert "to" in first["stays"][0]
    for row in (now, before, first):
        assert ConditioningFacts.model_validate_json(json.dumps(row)) == facts
    assert facts.until - facts.placed_at == timedelta(hours=25)
