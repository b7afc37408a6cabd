"""What a test truly uses: plies, discs, drops, pairs and later rounds, from counter to label."""

from __future__ import annotations

from collections import Counter
from typing import Any

from endurant.work.base.transactions import transaction
from endurant.work.facts.status import job_or_refuse
from endurant.work.use_cases.receiving.receiving import add_specimen
from endurant.work.views.sheet_drawing import (
    Lies,
    lay_down,
    lies_of,
    pieces_of,
)
from tests.laboratory import Bench, sample
from tests.pdf_text import text_of


def sheet_of(bench: Bench, *tests: dict[str, Any], **changes: Any) -> Any:
    request = {
        "material": "film",
        "width_mm": 900,
        "length_mm": 6000,
        "tests": list(tests),
    } | changes
    job = bench.post("/jobs", sample(**request))
    body = {"revision": job["revision"], "seconds": 0}
    return bench.post(f"/jobs/{job['id']}/sheet/place", body)


def cut(bench: Bench, sheet: Any) -> Any:
    return bench.post(f"/jobs/{sheet['job_id']}/sheet/cut", {"revision": sheet["revision"]})


def labels(bench: Bench, job_id: int) -> str:
    return text_of(bench.call("GET", f"/jobs/{job_id}/labels.pdf").content)


def test_a_series_of_drops_has_a_piece_of_film_for_each_drop_and_some_more(bench: Bench) -> None:
    dart = {"method": "astm-d1709", "parameters": {"drops_planned": 8}}
    sheet = sheet_of(bench, dart)
    counted = Counter(piece["label"] for piece in sheet["specimens"])
    assert set(counted.values()) == {10}
    assert len(counted) == 2
    assert sheet["broken"] == []
    assert sheet["tests"][0]["placed"] == sheet["tests"][0]["required"] == 20
    assert len({piece["id"] for piece in sheet["specimens"]}) == 20
    assert sheet["specimens"][3]["part"] == "piece 4 of 10"


def test_plies_are_cut_moved_labelled_and_changed_before_the_cut(bench: Bench) -> None:
    paper = {"method": "iso-1974", "parameters": {"specimens_wanted": 2}}
    sheet = sheet_of(bench, paper)
    names = [piece["name"] for piece in sheet["specimens"]]
    assert names[:5] == ["M1a", "M1b", "M1c", "M1d", "M2a"]
    ply = sheet["specimens"][2]
    laid = {"specimen_id": ply["id"], "x_mm": 450, "y_mm": 3000, "locked": True}
    path = f"/jobs/{sheet['job_id']}/sheet/layout"
    moved = bench.put(path, {"laid": [laid], "revision": sheet["revision"]})
    again = bench.post(
        f"/jobs/{sheet['job_id']}/sheet/place", {"revision": moved["revision"], "seconds": 0}
    )
    place = {piece["name"]: (piece["x_mm"], piece["y_mm"]) for piece in again["specimens"]}
    assert place["M1c"] == (450, 3000)
    assert again["broken"] == []
    assert "M1 c" not in labels(bench, sheet["job_id"])
    assert "ply 3 of 4" in labels(bench, sheet["job_id"])

    test = bench.get(f"/tests/{again['tests'][0]['id']}")
    body = {"parameters": {"plies_planned": 2}, "reason": "thick", "revision": test["revision"]}
    bench.put(f"/tests/{test['id']}", body)
    fewer = bench.get(f"/jobs/{sheet['job_id']}/sheet")
    assert [piece["name"] for piece in fewer["specimens"]][:3] == ["M1a", "M1b", "M2a"]
    assert {piece["x_mm"] for piece in fewer["specimens"]} == {None}


def test_each_half_of_a_seam_pair_has_its_label(bench: Bench) -> None:
    pair = {"method": "iso-13936-1", "parameters": {"specimens_wanted": 1}}
    sheet = sheet_of(bench, pair, material="woven", width_mm=1500)
    wording = labels(bench, sheet["job_id"])
    assert wording.count("W1 sewn") == wording.count("W1 unsewn") == 1


def test_later_rounds_of_a_flame_test_are_kept_and_asked_for(bench: Bench) -> None:
    fire = {"method": "16-cfr-1610", "parameters": {"surface": "raised"}}
    request = {"width_mm": 1500, "seconds": 0, "tests": [fire]}
    answer = bench.post("/required-sample-size", request)
    assert "2 tried before the first round" in answer["usage"][0]
    sheet = sheet_of(bench, fire, material="woven", width_mm=1500)
    counted = Counter((piece["direction"], piece["spare"]) for piece in sheet["specimens"])
    cloth_to_refurbish = 1
    assert counted["length", False] == 2 + 5 + cloth_to_refurbish
    assert counted["length", True] == 5 + 1
    line = bench.get(f"/jobs/{sheet['job_id']}")
    assert (line["tested"], line["required"]) == (0, 4)


def test_cloth_to_refurbish_is_one_piece_that_its_strips_are_cut_from(bench: Bench) -> None:
    fire = {"method": "16-cfr-1610", "parameters": {"surface": "plain"}}
    sheet = sheet_of(bench, fire, material="woven", width_mm=1500)
    assert (sheet["shortage"], sheet["broken"]) == (None, [])
    cloths = {
        piece["name"]: piece for piece in sheet["specimens"] if "refurbished" in piece["part"]
    }
    assert list(cloths) == ["L13\u2013L23", "W13\u2013W23"]
    along, across = cloths["L13\u2013L23"], cloths["W13\u2013W23"]
    assert along["part"] == "refurbished whole, then cut into L13 to L23"
    wide = 11 * 53 - 3 + 50
    assert (along["across_mm"], along["along_mm"]) == (wide, 200)
    assert (across["across_mm"], across["along_mm"]) == (200, wide)
    with transaction() as session:
        strips = job_or_refuse(session, sheet["job_id"]).tests[0].specimens
        lying = {strip.label: strip.x_mm for strip in strips if strip.treated}
        assert len(lying) == 22
        assert lying["L13"] == lying["L23"] == along["x_mm"]
    done = cut(bench, sheet)
    assert done["left_to_cut"] == 0
    wording = labels(bench, sheet["job_id"])
    assert "L23" in wording
    states = {
        each["label"]: each["state"]
        for each in bench.get(f"/jobs/{sheet['job_id']}")["tests"][0]["specimens"]
    }
    assert states["L23"] == states["L1"]


def test_a_test_added_after_the_cut_is_laid_and_cut_beside_what_was(bench: Bench) -> None:
    sheet = cut(bench, sheet_of(bench, {"method": "iso-6383-2"}))
    job = bench.get(f"/jobs/{sheet['job_id']}")
    before = {piece["id"]: piece["x_mm"] for piece in sheet["specimens"]}
    scuff = {"method": "scuff", "parameters": {"weight_n": 9, "specimens_wanted": 1}}
    added = {"test": scuff, "reason": "the client called", "revision": job["revision"]}
    job = bench.post(f"/jobs/{job['id']}/tests", added)
    assert bench.get(f"/jobs/{job['id']}")["next_text"] == "Start conditioning"
    open_ = bench.get(f"/jobs/{job['id']}/sheet")
    assert open_["left_to_cut"] == 2
    first = {"specimen_id": sheet["specimens"][0]["id"], "x_mm": 100, "y_mm": 100}
    path = f"/jobs/{job['id']}/sheet/layout"
    said = bench.refused("PUT", path, 409, json={"laid": [first], "revision": open_["revision"]})
    assert said == "sheet.specimen-cut"
    laid = bench.post(
        f"/jobs/{job['id']}/sheet/place", {"revision": open_["revision"], "seconds": 0}
    )
    assert all(piece["x_mm"] is not None for piece in laid["specimens"])
    assert {piece["id"]: piece["x_mm"] for piece in laid["specimens"]}.items() >= before.items()
    assert [piece["cut"] for piece in laid["specimens"] if piece["id"] not in before] == [False] * 4
    done = cut(bench, laid)
    assert done["left_to_cut"] == 0
    assert all(piece["cut"] for piece in done["specimens"])


def test_a_set_up_that_asks_for_another_blank_redraws_the_sheet_until_it_is_cut(
    bench: Bench,
) -> None:
    wide = {"method": "astm-d4595", "parameters": {"specimens_wanted": 1}}
    sheet = sheet_of(bench, wide, width_mm=2000)
    test = bench.get(f"/tests/{sheet['tests'][0]['id']}")
    rollers = {"parameters": {"grips": "roller grips"}, "revision": test["revision"]}
    bench.put(f"/tests/{test['id']}/set-up", rollers)
    redrawn = bench.get(f"/jobs/{sheet['job_id']}/sheet")
    assert redrawn["tests"][0]["size_text"] == "1300 x 200 mm"
    assert {piece["x_mm"] for piece in redrawn["specimens"]} == {None}
    body = {"revision": redrawn["revision"], "seconds": 0}
    cut(bench, bench.post(f"/jobs/{sheet['job_id']}/sheet/place", body))
    test = bench.get(f"/tests/{test['id']}")
    faces = {"parameters": {"grips": "wedge faces"}, "revision": test["revision"]}
    wording = bench.refused("PUT", f"/tests/{test['id']}/set-up", 409, json=faces)
    assert "test.already-cut" in wording


def test_a_replacement_of_several_pieces_is_cut_with_all_of_them(bench: Bench) -> None:
    scuff = {"method": "scuff", "parameters": {"weight_n": 9, "specimens_wanted": 1}}
    sheet = cut(bench, sheet_of(bench, scuff))
    with transaction() as session:
        job = job_or_refuse(session, sheet["job_id"])
        one = add_specimen(job.tests[0], "", 9, spare=True, test_place=1)
        session.flush()
        for place in range(2):
            lay_down(one, place, Lies(100.0 + 200 * place, 5000.0, "warp", locked=False))
        assert [lies_of(one, place).x_mm for place in range(pieces_of(one))] == [100.0, 300.0]
