"""The judging and conditioning documents answer or refuse, whatever is put into them."""

from __future__ import annotations

import json
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from endurant.core.conditioning_document import condition_document
from endurant.core.judging_document import judge_document
from endurant.core.refusals import Invalid
from tests.examples import example, names

DOCUMENTS = [
    (judge_document, {"kind": told["kind"], **told["input"]})
    for told in (example(name) for name in names("judging--"))
] + [
    (condition_document, {"kind": told["kind"], **told["input"]})
    for told in (example(name) for name in names("conditioning--"))
]

anything = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(),
    st.floats(),
    st.sampled_from(
        ["1e99", "-0", "1e-99", "25", "25.000000000", "3-4", "-1-2", "", ">", "between", "median"]
    ),
    st.lists(st.integers(), max_size=3),
    st.dictionaries(st.sampled_from(["value", "qualifier", "on", "limit"]), st.integers()),
)


@settings(max_examples=400, deadline=1000, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_documents_are_answered_or_refused(data: st.DataObject) -> None:
    answer, document = data.draw(st.sampled_from(DOCUMENTS))
    changed: dict[str, Any] = json.loads(json.dumps(document))
    for _ in range(data.draw(st.integers(1, 3))):
        spot: Any = changed
        while isinstance(spot, dict | list) and spot:
            keys = list(spot) if isinstance(spot, dict) else list(range(len(spot)))
            key = data.draw(st.sampled_from(keys))
            if not isinstance(spot[key], dict | list) or data.draw(st.integers(0, 3)) == 0:
                spot[key] = data.draw(anything)
                break
            spot = spot[key]
    try:
        told = json.dumps(answer(changed), allow_nan=False)
    except Invalid as refusal:
        told = refusal.sentence
    assert told


@given(
    value=st.floats(-1e29, 1e29) | st.sampled_from(["1e99", "12345678901234567890.5", "-0.0"]),
    rule=st.sampled_from(["half-even", "half-up"]),
    how=st.sampled_from(
        [{"decimals": 30}, {"decimals": -30}, {"significant": 30}, {"step": "0.000001"}]
    ),
)
def test_any_figure_can_be_rounded(value: float | str, rule: str, how: dict[str, Any]) -> None:
    told = {"kind": "rounding", "value": value, "rule": rule, **how}
    assert judge_document(told)["text"]
