"""A small laboratory for tests, and what its people do over the API."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from threading import current_thread
from typing import Any

import httpx2
from fastapi.testclient import TestClient
from sqlalchemy import event, text
from sqlalchemy.engine import Connection

from endurant.core.simulate.tear import sample_tear, specimen_from_label
from endurant.store import clock
from endurant.store.engine import engine_for
from endurant.store.server import wait_until
from endurant.work.base.actors import Actor
from endurant.work.base.watches import WatchThread
from endurant.work.upkeep.founding import (
    NewPerson,
    NewStation,
    add_enclosure,
    add_person,
    add_station,
    found_laboratory,
)
from endurant.work.upkeep.rebuild import rebuild
from endurant.work.use_cases.people.sign_in import sign_in
from endurant.work.use_cases.preparation import placement
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.sheets import cutting

PASSWORD = "bench-tests"
PENDULUM = {"pendulum_j": 5.5, "friction_j": 0.02}
BAR = {"thickness_mm": [4.0, 4.0, 4.0], "remaining_width_mm": [8.0, 8.0]}
PEOPLE = (
    NewPerson("ines", "Ines Tester", "technician", PASSWORD),
    NewPerson("olga", "Olga Tester", "technician", PASSWORD),
    NewPerson("maren", "Maren Reviewer", "reviewer", PASSWORD),
    NewPerson("pelle", "Pelle Trainee", "trainee", PASSWORD),
    NewPerson("greta", "Greta Manager", "manager", PASSWORD),
)


def found(frame_port: int, *, calibration_due: timedelta = timedelta(days=100)) -> None:
    """House rules, five people, one enclosure, one frame."""
    now = datetime.now(UTC)
    found_laboratory("Test House", "nowhere")
    for person in PEOPLE:
        add_person(person)
    add_enclosure("Textile room", "textile-20-65")
    add_station(
        NewStation(
            name="Frame 1",
            host="127.0.0.1",
            port=frame_port,
            simulated=True,
            instrument="Load cell",
            serial="T-1",
            capacity_n=500,
            certificate="C-1",
            calibrated_at=now - timedelta(days=100),
            calibration_due_at=now + calibration_due,
        )
    )


def sample(**changes: Any) -> dict[str, Any]:
    """What is written down at the counter for a made-up cloth."""
    limits = changes.pop("limits", {"warp": "20", "weft": "15.0"})
    return {
        "client": "Quay Awnings",
        "product": "Test cloth",
        "lot": "T-1",
        "material": "woven",
        "width_mm": 1480,
        "length_mm": 1000,
        "due_at": (datetime.now(UTC) + timedelta(days=3)).isoformat(),
        "tests": [
            {
                "method": "iso-13937-2",
                "limits": [
                    {
                        "property": "tear_force",
                        "direction": direction,
                        "criterion": {"on": "mean", "op": ">=", "limit": limit},
                    }
                    for direction, limit in limits.items()
                ],
            }
        ],
    } | changes


def csv_of(code: str) -> bytes:
    """The trace of a specimen as a CSV file of another program would hold it."""
    columns = sample_tear(specimen_from_label(code), 150, rate_hz=25)
    rows = zip(columns["extension_mm"], columns["force_n"], strict=True)
    return ("Extension (mm),Load (N)\n" + "".join(f"{x},{f}\n" for x, f in rows)).encode()


class Bench:
    """One person at one screen."""

    def __init__(self, client: TestClient, login: str) -> None:
        self.client = client
        self.login = login
        self.token, self.actor = sign_in(login, PASSWORD)

    def as_(self, login: str) -> Bench:
        """Another person at another screen."""
        return Bench(self.client, login)

    def call(self, verb: str, path: str, **answer: Any) -> httpx2.Response:
        """Whatever comes back."""
        self.client.cookies.clear()
        headers = {"cookie": f"endurant={self.token}"} | answer.pop("headers", {})
        return self.client.request(verb, f"/api{path}", headers=headers, **answer)

    def tagged(self, path: str, tag: str) -> httpx2.Response:
        """What comes back to a browser that has the page with this tag."""
        self.client.cookies.clear()
        headers = {"cookie": f"endurant={self.token}", "if-none-match": tag}
        return self.client.get(f"/api{path}", headers=headers)

    def get(self, path: str) -> Any:
        """What is there; it must be."""
        answer = self.call("GET", path)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def post(self, path: str, body: Any = None, **payload: Any) -> Any:
        """Do it; it must work."""
        answer = self.call("POST", path, json=body, **payload)
        assert answer.status_code < 300, answer.text
        return answer.json() if answer.content else None

    def put(self, path: str, body: Any) -> Any:
        """What came of a change; it must go well."""
        answer = self.call("PUT", path, json=body)
        assert answer.is_success, answer.text
        return answer.json()

    def refused(self, verb: str, path: str, status: int, **body: Any) -> str:
        """Do what must be refused; return the code of the refusal."""
        answer = self.call(verb, path, **body)
        assert answer.status_code == status, answer.text
        assert answer.headers["content-type"] == "application/problem+json"
        code: str = answer.json()["code"]
        return code

    def job_ready_to_test(self, **changes: Any) -> dict[str, Any]:
        """A job whose specimens were cut and hung a day and an hour ago."""
        actor: Actor = self.actor
        with clock.as_if(datetime.now(UTC) - timedelta(hours=25)):
            job = receiving.receive(actor, receiving.SampleRequest(**sample(**changes)))
            sheet = cutting.place_all(actor, job.id, job.revision, cutting.PlaceRequest(seconds=0))
            cutting.confirm_cut(actor, job.id, sheet.revision)
            ids = [specimen.id for specimen in job.tests[0].specimens]
            placement.place_specimens(actor, 1, placement.PlacementRequest(specimen_ids=ids))
        view: dict[str, Any] = self.get(f"/jobs/{job.id}")
        return view

    def specimen(self, job: dict[str, Any], label: str) -> dict[str, Any]:
        """One specimen as it is now."""
        test = self.get(f"/tests/{job['tests'][0]['id']}")
        view: dict[str, Any] = next(
            specimen for specimen in test["specimens"] if specimen["label"] == label
        )
        return view

    def at_bench(self, job: dict[str, Any], label: str) -> dict[str, Any]:
        """A specimen as the bench shows it."""
        view: dict[str, Any] = self.get(f"/specimens/{self.specimen(job, label)['id']}/bench")
        return view

    def act(self, view: dict[str, Any], **changes: Any) -> dict[str, Any]:
        """Do what is next at the bench, as whoever looks at this view would; what is then."""
        step, station = view["step"], view["station"]
        request = {
            "act": step["act"],
            "seen": view["last"],
            "station_id": station["id"] if station else None,
            "confirmed": step["confirms"],
        }
        after: dict[str, Any] = self.post(
            f"/specimens/{view['specimen_id']}/actions", request | changes
        )
        return after

    def make_ready(self, job: dict[str, Any], label: str = "W1") -> dict[str, Any]:
        """Everything up to the start; the view before it."""
        return through(self, self.at_bench(job, label), "start")

    def start(self, job: dict[str, Any], label: str, **changes: Any) -> dict[str, Any]:
        """Start a run; it must start."""
        view = self.act(self.make_ready(job, label), **changes)
        run: dict[str, Any] = self.get(f"/runs/{view['run_id']}")
        return run

    def ended(self, run: dict[str, Any]) -> dict[str, Any]:
        """The run once it is over."""
        wait_until(
            lambda: self.get(f"/runs/{run['id']}")["state"] != "running", 120, "the run did not end"
        )
        over: dict[str, Any] = self.get(f"/runs/{run['id']}")
        return over

    def recorded(self, view: dict[str, Any]) -> None:
        """Wait until the device that records for this view has ended."""
        path = f"/specimens/{view['specimen_id']}/bench"
        wait_until(
            lambda: self.get(path)["phase"] not in ("recording", "paused"), 120, "it did not end"
        )

    def removed(self, job: dict[str, Any], label: str) -> dict[str, Any]:
        """Take a specimen whose run has ended out of the device, and record what is asked."""
        return through(self, self.at_bench(job, label))

    def pull(self, job: dict[str, Any], label: str) -> dict[str, Any]:
        """Run a specimen to its end and accept it."""
        run = self.ended(self.start(job, label))
        self.removed(job, label)
        self.post(f"/runs/{run['id']}/accept")
        return self.ended(run)

    def bring_in(self, job: dict[str, Any], label: str, *, keep: bool = True) -> dict[str, Any]:
        """Bring a specimen in from a file, and keep it."""
        specimen = self.specimen(job, label)
        run: dict[str, Any] = self.post(
            f"/specimens/{specimen['id']}/trace",
            files={"file": (f"{label}.csv", csv_of(specimen["code"]))},
        )
        if keep:
            self.post(f"/runs/{run['id']}/accept")
        return run

    def tested_job(self, **changes: Any) -> dict[str, Any]:
        """A job with every specimen brought in and kept."""
        job = self.job_ready_to_test(**changes)
        for direction in "WF":
            for number in range(1, 6):
                self.bring_in(job, f"{direction}{number}")
        view: dict[str, Any] = self.get(f"/jobs/{job['id']}")
        return view

    def release(self, job_id: int, password: str = PASSWORD) -> httpx2.Response:
        """Try to release."""
        seen = self.get(f"/jobs/{job_id}/draft")
        body = {
            "password": password,
            "revision": seen["job"]["revision"],
            "content_sha256": seen["content_sha256"],
        }
        return self.call("POST", f"/jobs/{job_id}/release", json=body)


@contextmanager
def queries(database: str, about: str = "") -> Iterator[list[str]]:
    """The statements with these words that requests send to the database meanwhile.

    Watches beside the requests send others, whenever it is their turn.
    """
    sent: list[str] = []
    engine = engine_for(database)

    def note(_connection: Any, _cursor: Any, statement: str, *_rest: Any) -> None:
        if about in statement and not isinstance(current_thread(), WatchThread):
            sent.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    try:
        yield sent
    finally:
        event.remove(engine, "before_cursor_execute", note)


@contextmanager
def without_trigger(connection: Connection, name: str) -> Iterator[None]:
    """Let rows be changed that a trigger keeps from it."""
    shown = connection.execute(text(f"SHOW CREATE TRIGGER {name}")).mappings().one()
    connection.execute(text(f"DROP TRIGGER {name}"))
    yield
    connection.execute(text(shown["SQL Original Statement"]))


def behind_its_back(database: str, *statements: str, **values: Any) -> None:
    """Change the database by hand, and rebuild lists and clocks of it."""
    with engine_for(database).begin() as connection:
        for statement in statements:
            connection.execute(text(statement), values)
        connection.execute(text("DELETE FROM conditioning_tally"))
    rebuild()


def pieces(method: str, parameters: dict[str, Any]) -> dict[str, Any]:
    """Twenty specimens that came ready, and one test of them."""
    return sample(
        form="pieces",
        count=20,
        width_mm=None,
        length_mm=None,
        tests=[{"method": method, "parameters": parameters}],
    )


def ready(bench: Bench, method: str, room: str, **parameters: Any) -> dict[str, Any]:
    """A job of pieces that came ready and hung for three days."""
    long_ago = datetime.now(UTC) - timedelta(hours=80)
    with clock.as_if(long_ago):
        job: dict[str, Any] = bench.post("/jobs", pieces(method, parameters))
        enclosure = add_enclosure(f"Room of {job['number']}", room)
        ids = [specimen["id"] for specimen in job["tests"][0]["specimens"]]
        mounted = {"specimen_ids": ids, "confirmed": ["mounted", "brushed"]}
        bench.post(f"/enclosures/{enclosure}/placements", mounted)
    return job


VALUES: dict[str, float | str] = {
    "charge_g": 5.0,
    "mass_g": 0.056,
    "length_mm": 15.0,
    "time_s": 9.1,
    "height_mm": 600.0,
    "drop_height_mm": 600.0,
    "upper_c": 190.1,
    "lower_c": 189.9,
    "settled_min": 45.0,
    "count": 50.0,
    "minutes": 30.0,
    "cloth_dry_g": 0.8,
    "cloth_wet_g": 1.58,
    "hours_since": 60.0,
    "temperature_c": 23.0,
    "seam_opening_mm": "5.8 6,1",
    "break_distance_mm": 40.0,
    "final_gauge_mm": 58.0,
    "length_at_break_mm": 130.0,
    "nick_depth_mm": 1.0,
    "ribs_tested": 5.0,
    "ribs_per_metre": 43.5,
    "gauge_length_mm": 50.0,
    "grip_separation_mm": 100.0,
    "speed_mm_min": 5.0,
    "width_mm": "10 10 10",
    "thickness_mm": "2 2 2",
    "dry_g": 1.25,
    "wet_g": 1.55,
    "mass_before_g": 4.2,
    "mass_after_g": 4.1,
    "energy_j": 1.9,
    "reading_j": 6.0,
    "reading_percent": 48.0,
    "plies": 4.0,
    "medium_batch": "B-7",
    "tip": "1 mm ball",
    "target_mm": 30.0,
    "full_load_n": 5000.0,
    "refurbishing": "one dry clean, one wash",
}
"""What somebody would answer to the questions of the bench."""
WHY = "agreed with the client"


def answers(step: dict[str, Any]) -> dict[str, Any]:
    """What somebody would answer: what is preset, else a usual value or the first choice.

    A dart breaks the film from 150 g on.
    """
    given: dict[str, Any] = {}
    for ask in step["asks"]:
        name = ask["name"]
        if name == "why":
            given[name] = WHY
        elif name == "failed":
            due_g = float(step["title"].split(": ")[1].split()[0])
            given[name] = "failed" if due_g > 150 else "held"
        elif ask["preset"] is not None:
            given[name] = ask["preset"]
        elif ask["choices"] and ask["required"]:
            given[name] = ask["choices"][0]
        elif not ask["choices"]:
            given[name] = VALUES.get(name)
    return given


def through(
    bench: Bench, view: dict[str, Any], until: str = "", deviation: str = "", **values: float | str
) -> dict[str, Any]:
    """Do what is next until the specimen is looked at, a device records, or this action is next.

    A clock that holds the key is cut short with a reason; `deviation` is the reason for all else.
    """
    while view["step"] and view["step"]["kind"] == "do" and view["step"]["act"] != until:
        step = view["step"]
        request = answers(step)
        request |= {name: values[name] for name in request if name in values}
        why = {"deviation": WHY if step["held_until"] else deviation}
        view = bench.act(view, values=request, **(why if why["deviation"] else {}))
    return view
