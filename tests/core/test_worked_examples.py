"""Every worked example gives its figures, flags, validity and summary, or is refused by name."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.conditioning.document import condition_document
from endurant.core.document import analyse, read_document
from endurant.core.judging.document import judge_document
from endurant.core.methods import MODULES
from endurant.core.refusals import Invalid
from tests.examples import assert_gives, assert_same, example, names

DOCUMENTS = [name for method in MODULES for name in names(f"{method}--")]


def result_of(name: str) -> dict[str, Any]:
    return analyse(read_document(example(name)["document"])).as_json()


@pytest.mark.parametrize("name", [name for name in DOCUMENTS if "--refused" not in name])
def test_worked_example_gives_its_figures(name: str) -> None:
    requested = example(name)
    assert_gives(result_of(name), requested["expect"], requested["rel_tol"])


@pytest.mark.parametrize("name", [name for name in DOCUMENTS if "--refused" in name])
def test_worked_example_is_refused_with_field_and_specimen(name: str) -> None:
    with pytest.raises(Invalid) as refusal:
        result_of(name)
    for word in example(name)["message_contains"]:
        assert word in refusal.value.sentence


@pytest.mark.parametrize("name", names("judging--"))
def test_judging_document_gives_its_answer(name: str) -> None:
    requested = example(name)
    got = judge_document({"kind": requested["kind"], **requested["input"]})
    assert_same(got, requested["expect"], requested["rel_tol"], name)


@pytest.mark.parametrize("name", names("conditioning--"))
def test_conditioning_document_gives_its_answer(name: str) -> None:
    requested = example(name)
    got = condition_document({"kind": requested["kind"], **requested["input"]})
    assert_same(got, requested["expect"], requested["rel_tol"], name)
