"""Documents with the figures they must give, and ways to compare."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

FOLDER = Path(__file__).parent / "examples"


def example(name: str) -> dict[str, Any]:
    """One worked example by its file name without the ending."""
    found: dict[str, Any] = json.loads((FOLDER / f"{name}.json").read_text())
    return found


def names(prefix: str) -> list[str]:
    """All examples that begin so."""
    return sorted(path.stem for path in FOLDER.glob(f"{prefix}*.json"))


def assert_gives(result: dict[str, Any], expected: dict[str, Any]) -> None:
    """The result document holds the expected figures (relative 1e-6), flags and validity."""
    by_label = {one["label"]: one for one in result["specimens"]}
    assert list(by_label) == list(expected["specimens"])
    for label, wanted in expected["specimens"].items():
        got = by_label[label]
        assert got["valid"] is wanted["valid"], label
        assert [flag["code"] for flag in got["flags"]] == [
            flag["code"] if isinstance(flag, dict) else flag for flag in wanted["flags"]
        ]
        for name, (value, unit) in wanted["values"].items():
            assert got["values"][name]["unit"] == unit
            assert got["values"][name]["value"] == pytest.approx(value, rel=1e-6), (label, name)
    assert len(result["summary"]) == len(expected["summary"])
    for got_row, wanted_row in zip(result["summary"], expected["summary"], strict=True):
        for name, value in wanted_row.items():
            assert got_row[name] == (
                pytest.approx(value, rel=1e-6) if isinstance(value, float) else value
            ), name
    assert [flag["code"] for flag in result["flags"]] == [
        flag["code"] if isinstance(flag, dict) else flag for flag in expected["flags"]
    ]
