"""Instruments: in service or not, their checks, what wears out, and the room around them."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from endurant.store import clock
from endurant.store.tables import Station
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.founding import (
    NewGauge,
    NewStation,
    add_enclosure,
    add_gauge,
    add_station,
)
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.preparation.enclosures import store_readings
from tests.api.test_photos import picture
from tests.conftest import StandIn
from tests.laboratory import BAR, PENDULUM, VALUES, WHY, Bench, ready, sample, through

FOIL = {
    "title": "Check weight",
    "unit": "N",
    "target": 100.0,
    "warn": 0.5,
    "limit": 1.0,
    "every_days": 7,
}


def pendulum(name: str, serial: str, port: int = 0) -> int:
    """A pendulum, with a line where there is a port; the id of its station."""
    now = datetime.now(UTC)
    return add_station(
        NewStation(
            name=name,
            host="127.0.0.1" if port else "",
            port=port,
            simulated=port > 0,
            instrument=name,
            serial=serial,
            capacity_n=0,
            certificate="C",
            calibrated_at=now,
            calibration_due_at=now + timedelta(days=9),
            kind="pendulum",
            device=serial if port else None,
        )
    )


def named(bench: Bench, serial: str) -> dict[str, Any]:
    (found,) = (each for each in bench.get("/instruments") if each["serial"] == serial)
    return dict(found)


def new(**changes: Any) -> dict[str, Any]:
    now = datetime.now(UTC)
    return {
        "name": "Pendulum 2",
        "kind": "pendulum",
        "serial": "P-2",
        "certificate": "C-9",
        "calibrated_at": (now - timedelta(days=2)).isoformat(),
        "calibration_due_at": (now + timedelta(days=300)).isoformat(),
    } | changes


def test_what_is_out_of_service_is_used_for_nothing_until_it_is_back(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    greta = bench.as_("greta")
    bench.post("/instruments/T-1/take-out-of-service", {"reason": "the cell was hit"})
    view = named(bench, "T-1")
    assert view["in_service"] is False
    assert (view["status"], view["text"][-20:]) == ("out", "26: the cell was hit"[-20:])
    wording = bench.refused(
        "POST", "/instruments/T-1/take-out-of-service", 409, json={"reason": "again"}
    )
    assert wording == "instrument.already-out"
    seen = bench.at_bench(job, "W1")
    assert seen["step"] is None
    assert "the cell was hit" in seen["waits"]
    greta.post("/instruments/T-1/return-to-service", {"reason": "checked, unharmed"})
    assert named(bench, "T-1")["status"] == "good"
    kinds = [event["kind"] for event in bench.get("/instruments/T-1/log")]
    assert kinds == ["back", "out"]


def test_a_run_at_a_station_that_is_out_is_refused(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    view = bench.at_bench(job, "W1")
    while view["step"]["act"] != "start":
        view = bench.act(view)
    bench.post("/instruments/T-1/take-out-of-service", {"reason": "the cell was hit"})
    body = {
        "act": "start",
        "seen": view["last"],
        "station_id": 1,
        "confirmed": view["step"]["confirms"],
    }
    path = f"/specimens/{view['specimen_id']}/actions"
    wording = bench.refused("POST", path, 409, json=body | {"deviation": "in a hurry"})
    assert wording == "instrument.cannot-be-used"


def test_an_instrument_that_is_out_is_refused_before_it_is_set_up(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bench.post("/instruments/T-1/take-out-of-service", {"reason": "the cell was hit"})
    view = bench.at_bench(job, "W1")
    assert view["step"] is None
    assert "out of service since" in view["waits"]
    prepare = {"act": "prepare", "seen": view["last"], "station_id": 1, "deviation": "in a hurry"}
    path = f"/specimens/{view['specimen_id']}/actions"
    assert bench.refused("POST", path, 409, json=prepare) == "instrument.cannot-be-used"


def test_a_check_that_fails_puts_the_station_out_and_names_what_it_touches(bench: Bench) -> None:
    greta = bench.as_("greta")
    (check,) = greta.post("/instruments/T-1/checks", FOIL)
    path = f"/checks/{check['id']}/readings"
    bench.post(path, {"value": 100.2})
    job = bench.job_ready_to_test()
    bench.pull(job, "W1")
    assert bench.get("/instruments/T-1/affected") == []
    wording = bench.refused("POST", path, 409, json={"value": 22.48})
    assert wording == "check.unit-confused"
    assert (
        bench.refused("POST", path, 422, json={"value": 100, "unit": "kN"}) == "check.unit-differs"
    )
    (check,) = bench.post(path, {"value": 22.48, "is_sure": True})
    assert (check["readings"][-1]["value"], check["readings"][-1]["verdict"]) == (22.48, "out")
    assert named(bench, "T-1")["status"] == "out"
    (affected,) = bench.get("/instruments/T-1/affected")
    assert (affected["label"], affected["released"]) == ("W1", False)
    bench.post(path, {"value": 100.1})
    assert named(bench, "T-1")["status"] == "good"
    assert bench.get("/instruments/T-1/affected") == []
    assert verify().sentences == []


def test_a_check_that_is_overdue_asks_for_a_word(bench: Bench) -> None:
    greta = bench.as_("greta")
    with clock.as_if(datetime.now(UTC) - timedelta(days=8)):
        greta.post("/instruments/T-1/checks", FOIL)
    assert named(bench, "T-1")["status"] == "overdue"
    assert greta.refused("POST", "/instruments/T-1/checks", 409, json=FOIL)
    (check,) = bench.get("/instruments/T-1/checks")
    assert check["due"] is True
    greta.post(f"/checks/{check['id']}/close")
    assert named(bench, "T-1")["status"] == "good"
    assert bench.refused("POST", f"/checks/{check['id']}/readings", 404, json={"value": 100})


def test_an_instrument_is_added_used_and_not_deleted_but_retired(bench: Bench) -> None:
    greta = bench.as_("greta")
    added = greta.post("/instruments", new())
    assert (added["has_line"], "iso-180" in added["serves"]) == (False, True)
    assert greta.refused("POST", "/instruments", 409, json=new()) == "instrument.serial-taken"
    early = new(serial="P-3", name="Third", calibration_due_at=new()["calibrated_at"])
    assert (
        greta.refused("POST", "/instruments", 422, json=early)
        == "instrument.due-before-calibration"
    )
    ahead = new(serial="P-3", name="Third", calibrated_at=new()["calibration_due_at"])
    assert (
        greta.refused("POST", "/instruments", 422, json=ahead) == "instrument.calibrated-in-future"
    )
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    specimen = bench.specimen(job, "S1")
    sizes = {"dimensions": BAR, "revision": specimen["revision"]}
    bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
    view = bench.at_bench(job, "S1")
    assert view["station"]["name"] == "Pendulum 2"
    view = through(bench, view, until="read")
    bench.act(
        bench.act(view, values={"energy_j": 1.9, "break_type": "C"}, read={"energy_j": "P-2"})
    )
    run = bench.get(f"/runs/{bench.specimen(job, 'S1')['run_id']}")
    assert run["settings"]["instrument"]["serial"] == "P-2"
    assert [gauge["serial"] for gauge in run["settings"]["gauges"]] == ["P-2"]
    wording = greta.refused("DELETE", "/instruments/P-2", 409)
    assert wording == "instrument.used"
    greta.post("/instruments/P-2/retire", {"reason": "sold"})
    assert named(bench, "P-2")["status"] == "retired"
    assert bench.at_bench(job, "S2")["station"] is None
    greta.post("/instruments", new(serial="P-4", name="A slip"))
    assert greta.call("DELETE", "/instruments/P-4").status_code == 204
    assert [each["serial"] for each in bench.get("/instruments") if each["serial"] == "P-4"] == []
    assert verify().sentences == []


def test_a_calibration_takes_the_place_of_an_overdue_one(bench: Bench) -> None:
    greta = bench.as_("greta")
    dates = {key: new()[key] for key in ("calibrated_at", "calibration_due_at")}
    view = greta.post("/instruments/T-1/calibrate", dates | {"certificate": "C-77"})
    assert view["certificate"] == "C-77"
    assert bench.get("/instruments/T-1/log")[0]["text"] == "certificate C-77 replaces C-1"
    wording = bench.refused(
        "POST", "/instruments/T-9/calibrate", 403, json=dates | {"certificate": "C"}
    )
    assert wording == "access.role"
    assert greta.refused(
        "POST", "/instruments/T-9/take-out-of-service", 404, json={"reason": "lost"}
    )


def test_what_wears_out_is_counted_and_its_change_asked_for(bench: Bench, rig: int) -> None:
    bench.post("/consumables", {"kind": "diaphragm", "lot": "D-1", "limit_count": 1})
    job = ready(bench, "iso-13938-1", "textile-20-65", diaphragm_pressure_kpa=24.5)
    first = bench.at_bench(job, "S1")
    assert first["remarks"] == []
    view = through(bench, first)
    bench.recorded(view)
    bench.act(through(bench, bench.at_bench(job, "S1")))
    run = bench.get(f"/runs/{bench.specimen(job, 'S1')['run_id']}")
    assert run["settings"]["supplies"] == [{"kind": "diaphragm", "lot": "D-1", "count": 1}]
    assert bench.at_bench(job, "S2")["remarks"] == [
        "Change the diaphragm: lot D-1 has done 1 of 1 specimens."
    ]
    shown = bench.post("/consumables", {"kind": "diaphragm", "lot": "D-2", "station_id": rig})
    assert {lot["lot"] for lot in shown["in_use"]} == {"D-1", "D-2"}
    assert bench.at_bench(job, "S2")["remarks"] == []
    shown = bench.post("/consumables", {"kind": "diaphragm", "lot": "D-3"})
    assert [lot["lot"] for lot in shown["finished"]] == ["D-1"]
    assert bench.refused(
        "POST", "/consumables", 404, json={"kind": "felt", "lot": "x", "station_id": 99}
    )
    assert verify().sentences == []


def test_a_felt_is_worn_by_its_rubs_and_a_look_has_its_photograph(bench: Bench) -> None:
    bench.post("/consumables", {"kind": "scuff felt", "lot": "F-1", "limit_count": 100})
    job = ready(bench, "scuff", "paper-23-50", weight_n=9.0, interval=50)
    view = through(bench, bench.at_bench(job, "S1"), until="look")
    short = {"deviation": WHY}
    view = bench.act(view, values={"count": 50, "acceptable": "acceptable"}, **short)
    specimen_id = view["specimen_id"]
    assert bench.get(f"/specimens/{specimen_id}/photograph-subjects") == ["look 1 at 50"]
    path = f"/specimens/{specimen_id}/photographs"
    photo = {"files": {"file": ("scuff.jpg", picture())}}
    (kept,) = bench.post(path, **photo, data={"subject": "look 1 at 50"})
    assert kept["subject"] == "look 1 at 50"
    assert (
        bench.refused("POST", path, 422, **photo, data={"subject": "look 7"})
        == "photo.subject-unknown"
    )
    view = bench.act(view)
    view = bench.act(view, values={"count": 100, "acceptable": "not acceptable"}, **short)
    run = bench.get(f"/runs/{bench.specimen(job, 'S1')['run_id']}")
    assert run["settings"]["supplies"] == [{"kind": "scuff felt", "lot": "F-1", "count": 100}]
    (lot,) = bench.get("/consumables")["in_use"]
    assert lot["text"] == "Change the scuff felt: lot F-1 has done 100 of 100 rubs."


def test_what_a_bad_caliper_measured_is_found_and_named(bench: Bench) -> None:
    now = datetime.now(UTC)
    add_gauge(
        NewGauge(
            name="Caliper",
            kind="caliper",
            serial="CAL-7",
            host="127.0.0.1",
            port=1,
            simulated=False,
            certificate="C",
            calibrated_at=now,
            calibration_due_at=now + timedelta(days=9),
        )
    )
    block = FOIL | {"title": "Gauge block", "unit": "mm", "target": 10.0, "warn": 0.01}
    (check,) = bench.as_("greta").post("/instruments/CAL-7/checks", block | {"limit": 0.02})
    path = f"/checks/{check['id']}/readings"
    bench.post(path, {"value": 10.0})
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    specimen = bench.specimen(job, "S1")
    sizes = {"dimensions": BAR, "revision": specimen["revision"], "with_gauges": ["CAL-7"]}
    bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
    view = through(bench, bench.at_bench(job, "S1"), until="read")
    bench.act(bench.act(view, values={"energy_j": 1.9, "break_type": "C"}))
    assert bench.get("/instruments/CAL-7/affected") == []
    bench.post(path, {"value": 10.3})
    (affected,) = bench.get("/instruments/CAL-7/affected")
    assert affected["label"] == "S1"
    draft = json.dumps(bench.get(f"/jobs/{job['id']}/draft"))
    assert "S1: tested with CAL-7 after its last good check" in draft


@pytest.mark.parametrize(("warm_c", "departs"), [(20.4, ""), (23.1, "23.1 °C, outside")])
def test_the_air_at_the_station_is_kept_with_the_run(
    bench: Bench, warm_c: float, departs: str
) -> None:
    corner = add_enclosure("Frame corner", "textile-20-65")
    view = bench.as_("greta").put("/instruments/T-1/room", {"enclosure_id": corner})
    assert view["room"] == "Frame corner"
    with transaction() as session:
        store_readings(session, corner, [(datetime.now(UTC), warm_c, 65.0)])
    job = bench.job_ready_to_test()
    run = bench.pull(job, "W1")
    room = run["settings"]["room"]
    assert (room["room"], room["temperature_c"]) == ("Frame corner", warm_c)
    assert room["departs"].startswith(departs)
    assert bool(room["departs"]) is bool(departs)


def test_readings_from_elsewhere_name_their_instrument(bench: Bench) -> None:
    greta = bench.as_("greta")
    greta.post("/instruments", new())
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    test_id = job["tests"][0]["id"]
    entry = {"label": "S1", "energy_j": 1.9, "break_type": "C", "dimensions": BAR}
    body = {"document": {"specimens": [entry]}, "instrument": "P-2"}
    greta.post("/instruments/P-2/take-out-of-service", {"reason": "bent"})
    wording = bench.refused("POST", f"/tests/{test_id}/readings", 409, json=body)
    assert wording == "instrument.cannot-be-used"
    greta.post("/instruments/P-2/return-to-service", {"reason": "straightened"})
    bench.post(f"/tests/{test_id}/readings", body)
    run = bench.get(f"/runs/{bench.specimen(job, 'S1')['run_id']}")
    assert run["settings"]["instrument"]["name"] == "Pendulum 2"
    other = {"document": {"specimens": [entry | {"label": "S2"}]}, "instrument": "P-99"}
    wording = bench.refused("POST", f"/tests/{test_id}/readings", 404, json=other)
    assert wording == "instrument.unknown"


def test_the_set_up_of_a_station_is_offered_to_the_next_job(bench: Bench) -> None:
    first = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    entry = {"label": "S1", "energy_j": 1.9, "break_type": "C", "dimensions": BAR}
    now = datetime.now(UTC)
    add_station(
        NewStation(
            "Pendulum", "", 0, False, "Pendulum", "P-1", 0, "C", now, now + timedelta(9), "pendulum"
        )
    )
    specimen = bench.specimen(first, "S1")
    sizes = {"dimensions": BAR, "revision": specimen["revision"]}
    bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
    view = bench.at_bench(first, "S1")
    view = through(bench, view, until="read")
    bench.act(bench.act(view, values={"energy_j": entry["energy_j"], "break_type": "C"}))
    second = ready(bench, "iso-180", "plastics-23-50")
    (offered,) = bench.get(f"/tests/{second['tests'][0]['id']}/set-up/earlier")
    assert (offered["station"], offered["job_number"]) == ("Pendulum", first["number"])
    assert offered["parameters"]["pendulum_j"] == 5.5
    assert bench.get(f"/tests/{first['tests'][0]['id']}/set-up/earlier") == []


def test_a_station_shows_what_it_reads_and_a_silent_one_holds_nobody_up(
    bench: Bench, frame: StandIn
) -> None:
    now = datetime.now(UTC)
    line = ("127.0.0.1", frame.port, True)
    added = add_station(
        NewStation(
            "Swing", *line, "Swing", "PEN-4", 0, "C", now, now + timedelta(9), "pendulum", "PEN-4"
        )
    )
    job = ready(bench, "iso-180", "plastics-23-50", **PENDULUM)
    specimen = bench.specimen(job, "S1")
    sizes = {"dimensions": BAR, "revision": specimen["revision"]}
    bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
    view = bench.at_bench(job, "S1")
    view = through(bench, view, until="read")
    shown = {each["name"]: each["value"] for each in view["shows"]}
    assert shown["break_type"] in ("C", "H", "P")
    assert 0 < shown["energy_j"] < 5.5
    with transaction() as session:
        session.get_one(Station, added).port = 1
    again = bench.get(f"/specimens/{specimen['id']}/bench")
    assert (again["shows"], again["step"]["act"]) == ([], "read")
    bench.act(again, values={"energy_j": 1.9, "break_type": "C"})


SENSOR = {"sensor": "upper", "displayed_c": 190.0, "reference_c": 190.7, "old_offset_c": -0.4}


def test_a_barrel_check_shows_its_sum_and_what_it_touches(bench: Bench) -> None:
    greta = bench.as_("greta")
    greta.post("/instruments", new(name="Melt rig", kind="melt-rig", serial="M-1"))
    good = {"sensors": [SENSOR | {"reference_c": 190.1}], "reference_serial": "RT-1"}
    (first,) = bench.post("/instruments/M-1/barrel", good)
    assert first["sensors"][0]["text"] == "0.1 °C off: the offset stays at −0.4 °C"
    bad = {"sensors": [SENSOR, SENSOR | {"sensor": "lower"}], "reference_serial": "RT-1"}
    (latest, _) = bench.post("/instruments/M-1/barrel", bad)
    sensor = latest["sensors"][0]
    assert (sensor["new_offset_c"], latest["review"]) == (0.3, True)
    assert sensor["text"] == (
        "the barrel is 0.7 °C hotter than it says; new offset = −0.4 + (190.7 - 190) = 0.3 °C"
    )
    twice = {"sensors": [SENSOR, SENSOR], "reference_serial": "RT-1"}
    assert (
        bench.refused("POST", "/instruments/M-1/barrel", 422, json=twice) == "barrel.sensor-twice"
    )
    assert bench.refused("POST", "/instruments/T-1/barrel", 409, json=good) == "barrel.none"


def test_a_charge_is_cleaned_into_the_log_and_its_density_into_the_register(bench: Bench) -> None:
    greta = bench.as_("greta")
    greta.post("/instruments", new(name="Melt rig", kind="melt-rig", serial="M-1"))
    melt = {"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0}
    request = sample(
        form="granules",
        mass_g=900,
        width_mm=None,
        length_mm=None,
        tests=[
            {"method": "melt-density", "parameters": melt | {"specimens_wanted": 3}},
            {"method": "iso-1133-1-b", "parameters": {"temperature_c": 190.0, "load_kg": 2.16}},
        ],
    )
    job = bench.post("/jobs", request)
    finds, needs = (test["id"] for test in job["tests"])
    formulation = {"formulation": "PE-7 white", "revision": "C"}
    path = f"/tests/{finds}/density"
    assert bench.refused("POST", path, 403, json=formulation) == "access.role"
    maren = bench.as_("maren")
    wording = maren.refused("POST", path, 409, json=formulation)
    assert wording == "melt-density.too-few-runs"
    for specimen in job["tests"][0]["specimens"][:3]:
        path = f"/specimens/{specimen['id']}/bench"
        view = bench.get(path)
        while view["step"]["act"] != "keep":
            cut = VALUES | {"mass_g": 0.0567, "length_mm": 1.045}
            values = {ask["name"]: cut.get(ask["name"], "none") for ask in view["step"]["asks"]}
            late = {"deviation": WHY} if view["step"]["held_until"] else {}
            view = bench.act(view, values=values, **late)
        bench.act(view)
    log = bench.get("/instruments/M-1/log")
    assert [event["kind"] for event in log] == ["cleaned"] * 3 + ["added"]
    (entered,) = maren.post(f"/tests/{finds}/density", formulation)
    assert (entered["density_g_cm3"], entered["runs"]) == (0.7631, 3)
    other = formulation | {"revision": "D"}
    wording = bench.refused("POST", f"/tests/{needs}/use-density", 404, json=other)
    assert wording == "melt-density.not-registered"
    test = bench.post(f"/tests/{needs}/use-density", formulation)
    assert test["parameters"]["melt_density_g_cm3"] == 0.7631
    assert (
        maren.refused("POST", f"/tests/{needs}/density", 409, json=formulation)
        == "melt-density.not-of-method"
    )
    (gone,) = maren.post(f"/densities/{entered['id']}/withdraw")
    assert gone["in_force"] is False
    assert verify().sentences == []
