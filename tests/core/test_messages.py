"""The catalogue of messages and the source agree on codes and parameters."""

from __future__ import annotations

import ast
import string
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from endurant.core.messages import Message, sentences
from endurant.core.refusals import Conflict, Invalid

SOURCE = Path(__file__).parents[2] / "endurant"
RAISED = {
    "Invalid",
    "Conflict",
    "NotFound",
    "Forbidden",
    "Unavailable",
    "NeedsReason",
    "SignedOut",
    "TooLarge",
    "Crossed",
    "OutOfOrder",
    "LineLost",
    "complaint",
    "within",
    "worded",
}
SET_BY_REFUSALS = {"message", "field", "specimen"}


def parameters(code: str) -> set[str]:
    parsed = string.Formatter().parse(sentences()[code])
    return {name.split(".")[0] for _, name, _, _ in parsed if name}


def calls() -> Iterator[tuple[str, ast.Call, str]]:
    """Every call in the source that names a message, with the code."""
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call) or not node.args:
                continue
            called = node.func
            name = called.id if isinstance(called, ast.Name) else getattr(called, "attr", "")
            if name in ("flag", "of") and len(node.args) <= 2:
                yield from _by_code(f"{path.name}:{node.lineno}", node)
            at = 1 if name == "refuse" and len(node.args) > 1 else 0
            code = node.args[at]
            known = name in RAISED or name == "refuse"
            if known and isinstance(code, ast.Constant) and isinstance(code.value, str):
                yield f"{path.name}:{node.lineno}", node, code.value


def _by_code(where: str, node: ast.Call) -> Iterator[tuple[str, ast.Call, str]]:
    """The sentence that a flag or departure names, or the one of its code."""
    kind = "flag" if len(node.args) == 2 else "departure"
    named = [keyword.value for keyword in node.keywords if keyword.arg == "sentence"]
    for given in named or node.args[:1]:
        if isinstance(given, ast.Constant):
            yield where, node, str(given.value) if named else f"{kind}.{given.value!s}"


def test_every_message_that_is_raised_is_in_the_catalogue_with_its_parameters() -> None:
    for where, node, code in calls():
        assert code in sentences(), f"{where}: {code}"
        given = {keyword.arg for keyword in node.keywords if keyword.arg}
        missing = parameters(code) - given - SET_BY_REFUSALS
        assert not missing, f"{where}: {code} lacks {missing}"


def written_out() -> Iterator[tuple[str, str, set[str]]]:
    """Every `Message("code", {...})` whose code and parameters stand in one place."""
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") != "Message":
                continue
            code, *rest = node.args
            keys = rest[0].keys if rest and isinstance(rest[0], ast.Dict) else []
            if isinstance(code, ast.Constant) and "." in str(code.value) and None not in keys:
                given = {key.value for key in keys if isinstance(key, ast.Constant)}
                is_named = bool(rest) and not isinstance(rest[0], ast.Dict)
                if not is_named:
                    yield f"{path.name}:{node.lineno}", str(code.value), set(map(str, given))


def test_a_message_that_is_written_out_has_the_parameters_of_its_sentence() -> None:
    written = list(written_out())
    assert len(written) > 50
    for where, code, given in written:
        assert code in sentences(), f"{where}: {code}"
        assert parameters(code) <= given, f"{where}: {code} lacks {parameters(code) - given}"


def test_every_sentence_of_the_catalogue_is_used() -> None:
    source = "\n".join(path.read_text() for path in SOURCE.rglob("*.py"))
    made = ("bench.not-now-", "right.", "audit.", "plan.", "suspicion.pump-", "waits.", "run-rule.")
    flags = {code for _, _, code in calls()}
    left = [code for code in sentences() if f'"{code}"' not in source and code not in flags]
    assert [code for code in left if not code.startswith(made)] == []


def test_no_step_of_the_bench_is_worded_in_the_code() -> None:
    shown = {"title", "why", "button", "caution", "text"}
    written = [
        f"{path.name}:{node.lineno}"
        for path in (SOURCE / "core/bench").glob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.keyword) and node.arg in shown
        for part in ast.walk(node.value)
        if isinstance(part, ast.Constant) and " " in str(part.value).strip()
        if not _is_in_a_call(node.value, part)
    ]
    assert written == []


def _is_in_a_call(value: ast.expr, part: ast.AST) -> bool:
    """Whether the part is a value that is given to a sentence or a function."""
    return any(
        part in ast.walk(given)
        for call in ast.walk(value)
        if isinstance(call, ast.Call)
        for given in (*call.args, *(keyword.value for keyword in call.keywords))
    )


LINES = (
    *("right.", "audit.", "log.", "plan.", "clock-set.", "window.", "step.", "device-status."),
    *("ready.", "history.", "next.", "calculation.", "instrument-status.", "group.", "known."),
    *(
        "setting.",
        "search.",
        "atmosphere.",
        "compared.",
        "measured.",
        "cutting-rule.",
        "limit-rule.",
    ),
    *(
        "nonconformity-line.",
        "lot-line.",
        "run-rule.",
        "custody-line.",
        "device-name.",
        "guide-line.",
        "clock.",
        "job-line.",
        "changed.",
        "run-end.",
        "product-line.",
        "report-verdict.",
        "deviation-line.",
        "barrel-line.",
        "due.",
    ),
)
"""Titles, names, parts of sentences, and lines of lists, which end without a stop."""


@pytest.mark.parametrize("code", [code for code in sentences() if not code.startswith(LINES)])
def test_a_sentence_ends_like_one(code: str) -> None:
    sentence = sentences()[code]
    assert sentence.endswith((".", "?", "{message}", "{reason}", "{rule}", "{text}", "{advice}")), (
        sentence
    )
    assert max(len(part.split()) for part in sentence.split(". ")) <= 30, sentence


def test_values_are_written_as_their_sentence_says() -> None:
    moment = datetime(2026, 3, 2, 8, 5, tzinfo=UTC)
    refusal = Conflict("void.already", code="L3", by="Ines", at=moment, void_code="slipped")
    assert refusal.sentence == (
        "L3 was already voided by Ines at 08:05 (slipped). Your void was not added."
    )
    assert refusal.message.plain_params()["at"] == "2026-03-02T08:05:00+00:00"


def test_a_message_keeps_its_code_inside_other_sentences() -> None:
    refusal = Invalid("csv.empty", field="file").within("file.in", file="parcel.csv")
    assert refusal.code == "csv.empty"
    assert refusal.field == "file"
    assert refusal.sentence == "parcel.csv: The file is empty. Give a header row and the samples."


def test_a_given_text_is_quoted_on_one_line_and_cut() -> None:
    message = Message("csv.not-a-number", {"row": 2, "column": "Load\n(N)", "given": "x" * 90})
    assert "column “Load (N)”" in message.text
    assert "x" * 40 not in message.text


def test_a_moment_is_written_in_the_local_time_of_the_server(monkeypatch: Any) -> None:
    message = Message("plan.pinned", {"at": datetime(2026, 7, 2, 8, 5, tzinfo=UTC)})
    voided = {"code": "L3", "by": "Ines", "void_code": "slipped"}
    at = Message("void.already", {**voided, "at": datetime(2026, 7, 2, 22, 5, tzinfo=UTC)})
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    assert message.text == "the step is pinned to 2026-07-02 10:05:00+02:00"
    assert "Ines at 00:05 (slipped)" in at.text
    monkeypatch.undo()
    time.tzset()
    assert "Ines at 22:05 (slipped)" in at.text
