"""Whole runs of what a device records, and of bars out of a chamber, through the real interface."""

from __future__ import annotations

import re
from collections.abc import Iterable
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import Locator, Page, expect

from endurant.store import clock
from endurant.store.tables import Specimen
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.founding import NewStation, add_enclosure, add_station
from endurant.work.use_cases.people.sign_in import sign_in
from endurant.work.use_cases.preparation import measuring, placement
from endurant.work.use_cases.receiving import receiving
from tests.browser.conftest import Site
from tests.browser.walk import choose
from tests.laboratory import PASSWORD, sample

STATIONS = (
    ("Large frame", "frame", "SF-1090", 50_000.0),
    ("Burst rig", "burst-rig", "BR-3", 0.0),
    ("Pallet rig", "compression-rig", "CR-8", 50_000.0),
    ("Pendulum", "pendulum", "PEN-4", 0.0),
)
AT_MOST = 120_000


@pytest.fixture
def pace() -> float:
    """Whole runs, one after the other."""
    return 400.0


@pytest.fixture
def lab(site: Site) -> Site:
    """The laboratory with a large frame, both rigs and a pendulum."""
    now = datetime.now(UTC)
    for name, kind, serial, capacity_n in STATIONS:
        add_station(
            NewStation(
                name=name,
                kind=kind,  # type: ignore[arg-type]
                device=serial,
                host="127.0.0.1",
                port=site.standin.port,
                simulated=True,
                instrument=name,
                serial=serial,
                capacity_n=capacity_n,
                certificate="C-3",
                calibrated_at=now - timedelta(days=9),
                calibration_due_at=now + timedelta(days=90),
            )
        )
    return site


def arrived(
    test: dict[str, Any],
    room: str | None = None,
    sizes: dict[str, list[float]] | None = None,
    form: str = "pieces",
    count: int = 30,
) -> int:
    """A job of pieces that came ready three days ago, measured and hung where it asks for that."""
    _, actor = sign_in("ines", PASSWORD)
    with clock.as_if(datetime.now(UTC) - timedelta(hours=80)):
        request = sample(width_mm=None, length_mm=None, tests=[test], form=form, count=count)
        job = receiving.receive(actor, receiving.SampleRequest(**request))
        if room is not None:
            ids = [specimen.id for specimen in job.tests[0].specimens]
            enclosure = add_enclosure("Room", room)
            placement.place_specimens(
                actor, enclosure, placement.PlacementRequest(specimen_ids=ids)
            )
    if sizes is not None:
        measure(actor, job.id, sizes)
    return job.id


def measure(actor: Actor, job_id: int, sizes: dict[str, list[float]]) -> None:
    with transaction() as session:
        rows = session.query(Specimen).filter(Specimen.test.has(job_id=job_id))
        found = [(row.id, row.revision) for row in rows]
    for specimen_id, revision in found:
        request = measuring.SizesRequest(dimensions=sizes, revision=revision)
        measuring.measure(actor, specimen_id, request)


def go(page: Page, until: str) -> list[str]:
    """Do what is next until this heading; the headings on the way."""
    heading = page.locator("form.next").get_by_role("heading")
    seen: list[str] = []
    while True:
        expect(heading).to_be_visible(timeout=AT_MOST)
        title, watched = page.locator("form.next").evaluate(STEP_SHOWN)
        if title == until:
            return seen
        seen.append(title)
        if watched:
            expect(step_of(page, title)).to_have_count(0, timeout=AT_MOST)
        else:
            fill_in(step_of(page, title))
            press(page, title)


STEP_SHOWN = 'form => [form.dataset.step, form.querySelector("button.stop") !== null]'
"""The heading of the step and whether it only watches a run, read in one moment:
a run that ends between two readings would give the one of this step and the other of the next."""


ANSWERS = {
    "grip separation": "100",
    "hours since notching": "60",
    "full load": "5000",
    "pump rate": "200",
    "reason": "agreed with the client",
}
"""What somebody types into a field that stands empty."""


def fill_in(form: Locator) -> None:
    """Type what is known of the fields of a step that stand empty."""
    for title in form.locator("label.v-field-label--floating").all_inner_texts():
        field = form.get_by_label(title, exact=True)
        known = ANSWERS.get(title[:1].lower() + title[1:])
        if known is not None and not field.input_value():
            field.fill(known)


def step_of(page: Page, title: str) -> Locator:
    """The form of the step with this title."""
    return page.locator(f'form.next[data-step="{title}"]')


def press(page: Page, title: str) -> None:
    """The button of this step, once it can be pressed; never that of the step after it.

    A device may see to the step itself before it is pressed: then it is gone.
    """
    button = step_of(page, title).locator("button.main:enabled")
    gone = page.locator(f'form.next:not([data-step="{title}"])')
    expect(button.or_(gone)).to_be_visible(timeout=AT_MOST)
    if button.count():
        with suppress(PlaywrightError):
            button.click(timeout=5_000)
    expect(step_of(page, title)).to_have_count(0, timeout=AT_MOST)


def beside(page: Page, title: str, wording: str) -> None:
    """What may be done beside this step, once it can be pressed."""
    button = step_of(page, title).get_by_role("button", name=wording)
    expect(button).to_be_enabled()
    button.click()


def keep(page: Page, label: str) -> None:
    go(page, f"Check {label}")
    press(page, f"Check {label}")


def accept(page: Page, label: str) -> None:
    """Accept it, whether or not its trace is suspect: what is suspect is examined first."""
    examine = page.get_by_role("button", name="Examine the trace")
    if examine.count():
        examine.click()
        page.get_by_role("button", name=f"Accept {label}").click()
    else:
        press(page, f"Check {label}")


def in_order(titles: Iterable[str], *parts: str) -> None:
    """Each part stands in a title that comes after the one before."""
    rest = iter(titles)
    for part in parts:
        assert any(part in title for title in rest), part


def test_a_metal_bar_from_the_lower_grip_to_its_halves(lab: Site) -> None:
    parameters = {
        "gauge_length_mm": 50.0,
        "speed_mm_min": 5.0,
        "extensometer_off_strain": 0.04,
        "specimens_wanted": 1,
    }
    sizes = {"width_mm": [12.5, 12.5, 12.5], "thickness_mm": [3.0, 3.0, 3.0]}
    job = arrived({"method": "astm-e8", "parameters": parameters}, sizes=sizes)
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    seen = go(page, "Remove the extensometer")
    in_order(
        seen,
        "Complete the data of S1",
        "Set up the frame",
        "Zero the force",
        "Bar in the lower grip",
        "Upper grip brought down slowly",
        "Force of tightening released",
        "Extensometer fitted at 50 mm",
        "Locking pin pulled straight out",
        "Zero the crosshead and the extensometer",
        "Handset locked",
    )
    seen = go(page, "Examine S1 and record the readings")
    in_order(
        seen, "Remove the extensometer", "Put the locking pin back", "Continue the run", "Remove S1"
    )
    page.get_by_label("final gauge").fill("58,5")
    page.get_by_label("neck width").fill("10.1")
    page.get_by_label("neck thickness").fill("2.2")
    press(page, "Examine S1 and record the readings")
    keep(page, "S1")
    expect(page.locator("button.slip.tested", has_text="S1")).to_be_visible()
    page.goto(f"{lab.address}/judge/{job}")
    expect(page.get_by_text("Elongation after fracture").first).to_be_visible()


def test_a_printed_bar_broken_at_the_spring_still_counts(lab: Site) -> None:
    parameters = {"gauge_length_mm": 50.0, "speed_mm_min": 10.0, "specimens_wanted": 2}
    sizes = {"width_mm": [10.0] * 5, "thickness_mm": [4.0] * 5}
    job = arrived({"method": "iso-527", "parameters": parameters}, "plastics-23-50", sizes)
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    go(page, "Check S1")
    page.get_by_role("button", name="Broke at the extensometer").click()
    expect(page.get_by_role("button", name="Broke at the extensometer · recorded")).to_be_visible()
    keep(page, "S1")
    page.get_by_role("button", name="S1", exact=False).first.click()
    page.goto(f"{lab.address}/judge/{job}")
    expect(page.get_by_text("it broke at the spring or the edge").first).to_be_visible()


def test_a_pilot_gives_the_wide_specimens_after_it_their_pretension(lab: Site) -> None:
    sizes = {"width_mm": [200.0, 200.0, 200.0]}
    parameters = {"specimens_wanted": 2}
    job = arrived({"method": "astm-d4595", "parameters": parameters}, "geo-21-65", sizes)
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    seen = go(page, "Check M1")
    assert not any("Apply a pretension" in title for title in seen)
    in_order(seen, "Remove the extensometer", "Continue the run")
    keep(page, "M1")
    seen = go(page, "Check M2")
    in_order(seen, "Apply a pretension of ")
    keep(page, "M2")
    expect(page.locator("button.slip.tested", has_text="M2")).to_be_visible()


def test_a_burst_at_the_ring_is_void_and_calls_its_spare(lab: Site) -> None:
    parameters = {"diaphragm_pressure_kpa": 24.5}
    job = arrived({"method": "iso-13938-1", "parameters": parameters}, "textile-20-65")
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    seen = go(page, "Check S1")
    in_order(seen, "Complete the data of S1", "rain", "lamp", "rain", "pen")
    page.get_by_role("button", name="Burst at the ring").click()
    expect(page.get_by_role("button", name="S1 void")).to_be_visible()
    expect(page.get_by_role("button", name="S6 ready")).to_be_visible()


def test_bursts_that_are_too_slow_say_by_how_much_the_pump_is_to_be_turned_up(lab: Site) -> None:
    parameters = {"diaphragm_pressure_kpa": 24.5, "specimens_wanted": 1}
    job = arrived({"method": "iso-13938-1", "parameters": parameters}, "textile-20-65")
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    choose(page, re.compile("Behaviour (in|from)"), "pumps too slowly")
    go(page, "Check S1")
    page.get_by_role("button", name="Examine the trace").click()
    expect(page.get_by_role("heading", name="Examine S1")).to_be_visible()
    page.get_by_role("button", name="Accept S1").click()
    page.goto(f"{lab.address}/jobs/{job}")
    expect(page.get_by_text("15 to 25 s: use 2.").first).to_be_visible()


def test_a_pallet_steps_through_its_schedule_on_six_sensors(lab: Site) -> None:
    parameters = {
        "test": "stiffness",
        "full_load_n": 5000.0,
        "datum_s": 30.0,
        "full_s": 60.0,
        "relaxed_s": 30.0,
        "specimens_wanted": 1,
    }
    job = arrived({"method": "iso-8611", "parameters": parameters}, form="packs", count=3)
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    keep(page, "S1")
    expect(page.locator("button.slip.tested", has_text="S1")).to_be_visible()


def test_bars_are_struck_and_how_they_broke_is_read(lab: Site) -> None:
    sizes = {"thickness_mm": [4.0] * 3, "remaining_width_mm": [8.0] * 2}
    parameters = {"pendulum_j": 5.5, "friction_j": 0.02, "specimens_wanted": 2}
    job = arrived({"method": "iso-180", "parameters": parameters}, "plastics-23-50", sizes)
    page = lab.page("ines")
    page.goto(f"{lab.address}/bench/{job}")
    for label in ("S1", "S2"):
        seen = go(page, f"Read the scale and examine {label}")
        in_order(
            seen, "Pendulum latched before loading; Everyone clear of the path of the pendulum"
        )
        page.get_by_role("button", name="Pendulum shows").click()
        page.locator("form.next .v-select").click()
        page.get_by_role("option", name="C", exact=True).click()
        fill_in(step_of(page, f"Read the scale and examine {label}"))
        press(page, f"Read the scale and examine {label}")
        keep(page, label)
    expect(page.locator("button.slip.tested")).to_have_count(2)
