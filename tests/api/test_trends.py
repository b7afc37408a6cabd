"""Lots over time: what is charted, what is left out, and what the limits come from."""

from __future__ import annotations

import json
from io import BytesIO
from itertools import pairwise
from typing import Any

import pytest
from openpyxl import load_workbook
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.store.engine import engine_for
from endurant.store.tables import Base, Job, Report, ReportWithdrawal, Test, TestCard
from tests.kept import Kept
from tests.laboratory import Bench, queries

MEANS = [24.0, 24.4, 23.8, 24.2, 24.1, 23.9, 24.3, 30.0]
PRODUCT = {"client": "Quay Awnings", "product": "Test cloth"}


def chart(bench: Bench, **requested: Any) -> dict[str, Any]:
    """The chart of the product of these tests, or of what is requested."""
    view: dict[str, Any] = bench.call("GET", "/trends", params=PRODUCT | requested).json()
    return view


def copied(row: Base, **changes: Any) -> Any:
    """Another row like this one."""
    columns = (each.name for each in row.__table__.columns if each.name != "id")
    return type(row)(**{name: getattr(row, name) for name in columns} | changes)


def add_lot(session: Session, number: int, mean: float, **parameters: Any) -> int:
    """A released lot like the first, with this mean of the warp; the id of its job."""
    job = session.get_one(Job, 1)
    test = session.scalars(select(Test).where(Test.job_id == 1)).one()
    card = session.get_one(TestCard, test.id)
    report = session.scalars(select(Report).where(Report.job_id == 1)).one()
    lot = copied(job, number=f"J-9{number:03}", request_key=None, lot=f"LOT-{number}")
    session.add(lot)
    session.flush()
    other = copied(test, job_id=lot.id, parameters=test.parameters | parameters)
    session.add(other)
    session.flush()
    figures = json.loads(card.figures or "{}")
    for row in figures["summary"]:
        if row["direction"] == "warp":
            row |= {"mean": mean, "reported": f"{mean:.1f}"}
    session.add(copied(card, test_id=other.id, figures=json.dumps(figures)))
    session.add(copied(report, job_id=lot.id, number=f"R-9{number:03}"))
    session.flush()
    return int(lot.id)


def released_lots(bench: Bench, database: str) -> list[int]:
    """Eight lots after the one that was tested; the last of them is far off."""
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    with Session(engine_for(database)) as session, session.begin():
        return [add_lot(session, number, mean) for number, mean in enumerate(MEANS, 1)]


KEPT = Kept(released_lots)


@pytest.fixture
def lots(bench: Bench, database: str) -> list[int]:
    """The released lots of this module."""
    return KEPT.put_back(bench, database)


def test_lots_stand_in_their_order_with_limits_from_the_base(bench: Bench, lots: list[int]) -> None:
    assert bench.get("/trends/products") == [{**PRODUCT, "lots": 9}]
    (warp, weft) = chart(bench)["series"]
    assert warp["title"] == "ISO 13937-2: Tear force, warp"
    assert weft["unit"] == "N"
    view = chart(bench, base=8, series=warp["key"])
    assert [point["lot"] for point in view["points"][1:]] == [f"LOT-{n}" for n in range(1, 9)]
    values = [point["value"] for point in view["points"]]
    assert values[1:] == MEANS
    limits = view["limits"]
    assert limits["centre"] == pytest.approx(sum(values[:8]) / 8)
    ranges = [abs(b - a) for a, b in pairwise(values[:8])]
    assert limits["spread"] == pytest.approx(sum(ranges) / 7 / 1.128379)
    assert view["points"][-1]["signals"][0] == "beyond-limits"
    assert [point["in_base"] for point in view["points"]] == [True] * 8 + [False]
    assert all(not point["signals"] for point in view["points"][:-1])
    assert view["points"][0]["moving_range"] is None
    assert view["points"][2]["moving_range"] == pytest.approx(0.4)


def test_what_is_not_comparable_is_left_out_and_named(
    bench: Bench, lots: list[int], database: str
) -> None:
    with Session(engine_for(database)) as session, session.begin():
        other = add_lot(session, 20, 24.0, speed_mm_min=50.0)
        add_lot(session, 21, 24.0, specimens_wanted=4)
        withdrawn = session.scalars(select(Report.id).where(Report.job_id == lots[0])).one()
        at = session.get_one(Job, 1).released_at
        session.add(ReportWithdrawal(report_id=withdrawn, at=at, by_id=1, reason="wrong jaws"))
    view = chart(bench)
    left_out = {each["job_id"]: each["reason"] for each in view["left_out"]}
    assert set(left_out) == {other, lots[0]}
    assert "speed (mm/min) 50.0, usually 100.0" in left_out[other]
    assert left_out[lots[0]] == "its report was withdrawn"
    assert "LOT-21" in [point["lot"] for point in view["points"]]


def test_a_base_of_two_lots_gives_no_limits_and_says_so(bench: Bench, lots: list[int]) -> None:
    view = chart(bench, base=2)
    assert view["limits"] is None
    assert view["problem"] == "The base period has 2 lots. Choose at least 5."
    assert len(view["points"]) == 9


def test_a_requirement_gives_capability(bench: Bench, lots: list[int]) -> None:
    view = chart(bench)
    assert view["required_low"] is not None
    assert view["required_high"] is None
    assert [index["name"] for index in view["indices"]][-1] == "Ppk"
    assert "not normally distributed" in view["capability_remark"]


def test_an_open_correction_takes_its_lot_off_the_chart(bench: Bench, lots: list[int]) -> None:
    maren = bench.as_("maren")
    maren.post(f"/jobs/{lots[-1]}/correction", {"reason": "Misread"})
    view = chart(bench)
    assert lots[-1] not in [point["job_id"] for point in view["points"]]


def test_the_chart_as_a_workbook_and_what_nobody_has(bench: Bench, lots: list[int]) -> None:
    book = load_workbook(BytesIO(bench.call("GET", "/trends.xlsx", params=PRODUCT).content))
    *_, last = book["Lots"].values
    assert (last[1], last[3], last[4]) == ("LOT-8", 30.0, 5)
    assert last[5] == pytest.approx(5.7)
    assert "beyond the control limits" in str(last[6])
    code = bench.refused("GET", "/trends", 422, params=PRODUCT | {"series": "nothing"})
    assert code == "trend.unknown-series"
    empty = chart(bench, client="Nobody", product="Nothing")
    assert (empty["series"], empty["chosen"], empty["points"]) == ([], None, [])


def test_a_chart_takes_as_many_queries_for_many_lots_as_for_one(
    bench: Bench, lots: list[int], database: str
) -> None:
    chart(bench)
    with queries(database) as few:
        chart(bench)
    with Session(engine_for(database)) as session, session.begin():
        for number in range(40, 50):
            add_lot(session, number, 24.0)
    with queries(database) as many:
        chart(bench)
    assert len(many) == len(few)
