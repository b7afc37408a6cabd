"""The sheet of several tests over the API: hands on it, locks, shortage, and how much to send."""

from __future__ import annotations

from typing import Any

import pytest

from tests.laboratory import Bench, sample

TESTS = [{"method": "iso-13937-2"}, {"method": "iso-13938-1"}, {"method": "iso-37"}]


def placed(bench: Bench, **changes: Any) -> Any:
    job = bench.post("/jobs", sample(**{"tests": TESTS, "length_mm": 2000} | changes))
    body = {"revision": job["revision"], "seconds": 0}
    return bench.post(f"/jobs/{job['id']}/sheet/place", body)


def lay(bench: Bench, sheet: Any, name: str, **changed: Any) -> Any:
    specimen = next(specimen for specimen in sheet["specimens"] if specimen["name"] == name)
    laid = {"specimen_id": specimen["id"], "locked": specimen["locked"]} | {
        key: specimen[key] for key in ("x_mm", "y_mm", "long_side")
    }
    body = {"laid": [laid | changed], "revision": sheet["revision"]}
    return bench.call("PUT", f"/jobs/{sheet['job_id']}/sheet/layout", json=body)


def spot(sheet: Any, name: str) -> tuple[float, float]:
    specimen = next(specimen for specimen in sheet["specimens"] if specimen["name"] == name)
    return specimen["x_mm"], specimen["y_mm"]


def test_every_test_has_its_hatch_and_its_number(bench: Bench) -> None:
    sheet = placed(bench)
    assert [test["placed"] for test in sheet["tests"]] == [12, 6, 4]
    hatches = [tuple(test["hatch"].values()) for test in sheet["tests"]]
    assert len(set(hatches)) == 3
    assert {specimen["name"][:2] for specimen in sheet["specimens"]} == {"1-", "2-", "3-"}
    assert sheet["broken"] == []
    dumbbell = next(specimen for specimen in sheet["specimens"] if specimen["name"] == "3-S1")
    assert len(dumbbell["outline"]) == 40


def test_crossing_yarns_that_are_shared_for_want_of_room_are_named(bench: Bench) -> None:
    tear = [{"method": "iso-13937-2"}]
    assert placed(bench, tests=tear, width_mm=2000, length_mm=1500)["crossings"] == []
    sheet = placed(bench, tests=tear, length_mm=1000)
    warp, weft = sheet["crossings"]
    assert warp.startswith("W1, W2, W6 share crossing warp yarns with one another, over ")
    assert weft.startswith("F1 to F6 share crossing weft yarns with one another, over ")


def test_what_is_locked_stays_while_the_rest_is_placed_around_it(bench: Bench) -> None:
    sheet = placed(bench)
    moved = lay(bench, sheet, "2-S1", x_mm=700.5, y_mm=800.25, locked=True).json()
    assert spot(moved, "2-S1") == (700.5, 800.2)
    body = {"revision": moved["revision"], "seconds": 0}
    again = bench.post(f"/jobs/{sheet['job_id']}/sheet/place", body)
    assert spot(again, "2-S1") == (700.5, 800.2)
    assert again["broken"] == []


def test_turning_is_for_those_without_a_direction(bench: Bench) -> None:
    sheet = placed(bench, tests=[*TESTS, {"method": "iso-527"}])
    turned = lay(bench, sheet, "4-S1", long_side="weft").json()
    specimen = next(specimen for specimen in turned["specimens"] if specimen["name"] == "4-S1")
    assert (specimen["across_mm"], specimen["lies"]) == (170, "weft")
    rubber = next(each for each in turned["specimens"] if each["name"] == "3-S1")
    assert (rubber["lies"], rubber["works_on"]) == ("length", "stretches along its length")
    for name, side in (("1-W1", "warp"), ("3-S1", "weft")):
        refused = lay(bench, turned, name, long_side=side)
        assert refused.json()["code"] == "sheet.direction-fixed"


def test_a_change_is_taken_back_by_laying_everything_as_it_was(bench: Bench) -> None:
    sheet = placed(bench)
    moved = lay(bench, sheet, "2-S1", x_mm=1400, y_mm=1900).json()
    assert moved["broken"]
    before = [
        {"specimen_id": specimen["id"]}
        | {key: specimen[key] for key in ("x_mm", "y_mm", "long_side", "locked")}
        for specimen in sheet["specimens"]
    ]
    body = {"laid": before, "revision": moved["revision"]}
    back = bench.call("PUT", f"/jobs/{sheet['job_id']}/sheet/layout", json=body).json()
    assert [(specimen["x_mm"], specimen["y_mm"]) for specimen in back["specimens"]] == [
        (specimen["x_mm"], specimen["y_mm"]) for specimen in sheet["specimens"]
    ]
    assert back["broken"] == []


def test_a_short_sample_names_the_tests_that_fit(bench: Bench) -> None:
    sheet = placed(bench, length_mm=260)
    assert "mm too short" in sheet["shortage"]
    assert "These fit:" in sheet["shortage"]
    assert "Rubber in tension" in sheet["shortage"]
    assert "Trouser tear" not in sheet["shortage"]


def test_polygons_are_avoided_and_odd_ones_refused(bench: Bench) -> None:
    sheet = placed(bench)
    path = f"/jobs/{sheet['job_id']}/sheet/areas"
    concave = [[100, 100], [900, 100], [900, 900], [500, 300], [100, 900]]
    body = {"areas": [{"reason": "stain", "corners": concave}], "revision": sheet["revision"]}
    marked = bench.call("PUT", path, json=body).json()
    again = bench.post(
        f"/jobs/{sheet['job_id']}/sheet/place", {"revision": marked["revision"], "seconds": 0}
    )
    assert again["broken"] == []
    for corners, wording in (
        ([[0, 0], [100, 100], [100, 0], [0, 100]], "area.crosses-itself"),
        ([[5000, 0], [5100, 0], [5100, 100]], "area.off-the-sheet"),
        ([[0, 0], [10, 0]], "area.too-few-corners"),
    ):
        body = {"areas": [{"reason": "x", "corners": corners}], "revision": again["revision"]}
        assert bench.refused("PUT", path, 422, json=body) == wording


def test_an_area_over_everything_leaves_no_room_in_words(bench: Bench) -> None:
    sheet = placed(bench)
    whole = [[-10, -10], [5000, -10], [5000, 5000], [-10, 5000]]
    body = {"areas": [{"reason": "stain", "corners": whole}], "revision": sheet["revision"]}
    marked = bench.call("PUT", f"/jobs/{sheet['job_id']}/sheet/areas", json=body).json()
    again = bench.post(
        f"/jobs/{sheet['job_id']}/sheet/place", {"revision": marked["revision"], "seconds": 0}
    )
    assert "No test fits as a whole" in again["shortage"]
    assert all(specimen["x_mm"] is None for specimen in again["specimens"])


def test_how_much_to_send(bench: Bench) -> None:
    request = {"width_mm": 1500, "tests": [{"method": "iso-13937-2"}, {"method": "iso-13938-1"}]}
    post = bench.post("/required-sample-size", request | {"seconds": 0})
    assert post["length_bound_mm"] <= post["length_needed_mm"] <= post["ask_for_mm"]
    assert post["ask_for_mm"] % 50 == 0
    assert len(post["sheet"]["specimens"]) == 18
    more = [{"method": "iso-13937-2", "specimens_wanted": 20}, {"method": "iso-13938-1"}]
    longer = bench.post("/required-sample-size", request | {"seconds": 0, "tests": more})
    assert longer["length_needed_mm"] > post["length_needed_mm"]
    short = bench.post("/required-sample-size", request | {"seconds": 0, "length_mm": 200})
    assert not short["fits"]
    assert "too short" in short["relaxation"]


@pytest.mark.parametrize(
    ("changes", "wording"),
    [
        ({"width_mm": 0}, "field.too-low"),
        ({"tests": []}, "field.too-few"),
        ({"tests": [{"method": "iso-1133-1-a"}]}, "sample.no-sheet-tests"),
        ({"tests": [{"method": "iso-0"}]}, "method.unknown"),
        (
            {"tests": [{"method": "iso-13937-2", "specimens_wanted": 200}] * 2},
            "cutting.too-many-pieces",
        ),
    ],
)
def test_how_much_refuses_what_makes_no_sense(
    bench: Bench, changes: dict[str, Any], wording: str
) -> None:
    request = {"width_mm": 1500, "tests": [{"method": "iso-13937-2"}]} | changes
    assert bench.refused("POST", "/required-sample-size", 422, json=request) == wording


def test_the_crescent_the_angle_and_the_trousers_are_cut_by_their_die(bench: Bench) -> None:
    outlines = {}
    for die in "BCT":
        job = bench.post(
            "/jobs", sample(tests=[{"method": "astm-d624", "parameters": {"die": die}}])
        )
        sheet = bench.get(f"/jobs/{job['id']}/sheet")
        specimen = sheet["specimens"][0]
        outlines[die] = (
            len(specimen["outline"]),
            {mark["name"] for mark in specimen["inner_marks"]},
        )
    assert outlines == {"B": (34, {"nick"}), "C": (9, {"inner corner"}), "T": (4, {"slit"})}
