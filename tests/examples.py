"""Documents with the figures they must give, and ways to compare."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

FOLDER = Path(__file__).parent / "examples"


def example(name: str) -> dict[str, Any]:
    """One worked example by its file name without the ending."""
    loads: dict[str, Any] = json.loads((FOLDER / f"{name}.json").read_text())
    return loads


def names(prefix: str) -> list[str]:
    """All examples that begin so."""
    return sorted(path.stem for path in FOLDER.glob(f"{prefix}*.json"))


def worked(method: str) -> str:
    """The first worked example of a method that is not one of a refusal; fails where none is."""
    found = [name for name in names(f"{method}--") if "refused" not in name]
    assert found, f"{method} has no worked example: add tests/examples/{method}--<name>.json"
    return found[0]


def assert_gives(result: dict[str, Any], expected: dict[str, Any], rel_tol: float = 1e-6) -> None:
    """The result document holds the expected figures, flags and validity, wherever they stand."""
    by_label = {specimen["label"]: specimen for specimen in result["specimens"]}
    for label, requested in expected["specimens"].items():
        got = by_label[label]
        for key, value in requested.items():
            if key == "flags":
                assert codes(got["flags"]) == codes(value), label
            elif key == "values":
                for name, figure in value.items():
                    assert_figure(got["values"][name], figure, rel_tol, f"{label} {name}")
            else:
                assert_same(got[key], value, rel_tol, f"{label} {key}")
    assert list(by_label) == list(expected["specimens"])
    for got_row, expected_row in zip(result["summary"], expected["summary"], strict=False):
        assert_same(got_row, expected_row, rel_tol, f"summary {expected_row['property']}")
    assert len(result["summary"]) == len(expected["summary"])
    for key, value in expected.items():
        if key == "flags":
            assert codes(result["flags"]) == codes(value)
        elif key not in ("specimens", "summary"):
            assert_same(result[key], value, rel_tol, key)


def codes(flags: list[Any]) -> list[str]:
    """The codes of flags, given whole or as codes."""
    return [flag["code"] if isinstance(flag, dict) else flag for flag in flags]


def assert_figure(got: dict[str, Any], requested: Any, rel_tol: float, where: str) -> None:
    """One value of one specimen, expected as a dict, as [value, unit], or as null."""
    if requested is None:
        assert got["value"] is None, where
    elif isinstance(requested, list):
        assert got["unit"] == requested[1], where
        assert_same(got["value"], requested[0], rel_tol, where)
        assert got.get("qualifier") is None, where
    else:
        assert_same(got, requested, rel_tol, where)


def assert_same(got: Any, requested: Any, rel_tol: float, where: str) -> None:
    """Equal; floats within the tolerance; of an object the expected fields alone."""
    if isinstance(requested, dict):
        for name, value in requested.items():
            assert name in got, f"{where}.{name} is missing"
            assert_same(got[name], value, rel_tol, f"{where}.{name}")
    elif isinstance(requested, list):
        assert len(got) == len(requested), where
        for place, value in enumerate(requested):
            assert_same(got[place], value, rel_tol, f"{where}[{place}]")
    elif isinstance(requested, float):
        assert got == pytest.approx(requested, rel=rel_tol, abs=1e-12), where
    else:
        assert got == requested, where
