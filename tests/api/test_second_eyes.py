"""Who had a hand in a job does not release it, and what was changed is said."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sqlalchemy import select

from endurant.core.messages import Message
from endurant.store.audit import record
from endurant.store.tables import Laboratory, Person
from endurant.work.base.transactions import transaction
from endurant.work.facts.status import job_or_refuse
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.people.sign_in import actor_for
from endurant.work.use_cases.review.second_person import (
    CONFIRMS,
    NO_HAND,
    SAYS,
    barred,
)
from tests.api.test_bench_flame import PLAIN, bring_in
from tests.api.test_demand import cut, sheet_of
from tests.api.test_photos import picture
from tests.laboratory import PASSWORD, Bench
from tests.pdf_text import pages_of

SOURCE = Path(__file__).parents[2] / "endurant" / "work"


def actions_of_jobs() -> Iterator[str]:
    """Every kind of entry that the source writes with a job, as far as it is written out."""
    for path in SOURCE.rglob("*.py"):
        source = path.read_text()
        if not any(call in source for call in ("record(", "_write(", "_note(")):
            continue
        for node in ast.walk(ast.parse(source)):
            if not isinstance(node, ast.Call):
                continue
            named = {each.arg: each.value for each in node.keywords}
            name = getattr(node.func, "id", "")
            if name == "record" and "job_id" in named and "action" in named:
                yield from texts(named["action"])
            elif name in ("_write", "_note") and path.parent.name in (
                "receiving",
                "amending",
                "sheets",
            ):
                for each in node.args[3:4]:
                    yield from texts(each)


def texts(node: ast.expr) -> Iterator[str]:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield node.value


ACTIONS = sorted({*actions_of_jobs(), *SAYS, *NO_HAND})


def test_the_matrix_knows_the_actions_of_the_source() -> None:
    assert {"amend-test", "bench-act", "cut", "drop-test", "receive", "void"} <= {*ACTIONS}
    assert len(ACTIONS) > 35
    said = (SOURCE.parents[1] / "docs" / "security.md").read_text()
    table = said.split("## Who may release")[1].split("\n## ")[0]
    rows = {line.split("|")[1].strip(" `") for line in table.splitlines() if line.startswith("| `")}
    assert rows == {*NO_HAND, CONFIRMS}


def test_every_action_on_a_job_bars_its_author_but_a_few(bench: Bench) -> None:
    job_id = bench.post("/jobs", SAMPLE)["id"]
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        facts: dict[str, Any] = {"entity": "job", "entity_id": job_id, "job_id": job_id}
        barring = set()
        for action in ACTIONS:
            row = Person(login=action, name=action, role="reviewer", password_hash="-", active=True)
            session.add(row)
            session.flush()
            someone = actor_for(row)
            assert barred(session, job, someone) is None
            record(
                session,
                person_id=row.id,
                action=action,
                message=Message("audit.sealed-beside"),
                **facts,
            )
            if barred(session, job, someone) is not None:
                barring.add(action)
        assert barring == {*ACTIONS} - {*NO_HAND}
        session.get_one(Laboratory, 1).supervisor_releases = "yes"
        session.flush()
        row = session.scalars(select(Person).where(Person.login == CONFIRMS)).one()
        assert barred(session, job, actor_for(row)) is None


SAMPLE = {
    "client": "Quay Awnings",
    "product": "Awning cloth",
    "lot": "A-1",
    "material": "woven",
    "width_mm": 1480,
    "length_mm": 1000,
    "due_at": "2027-01-01T12:00:00Z",
    "tests": [{"method": "iso-13937-2", "parameters": {"specimens_wanted": 2}}],
}


def refused_to(bench: Bench, job_id: int) -> str:
    answer = bench.as_("maren").release(job_id)
    assert answer.status_code == 403, answer.text
    code: str = answer.json()["code"]
    return code


def test_a_reviewer_does_not_release_what_she_changed_after_the_test(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    test = bench.get(f"/jobs/{job['id']}")["tests"][0]
    request = {"parameters": {"peak_floor": 0.3}, "revision": test["revision"], "reason": "noise"}
    maren.put(f"/tests/{test['id']}", request)
    assert refused_to(bench, job["id"]) == "release.own-work"
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    said = [wording for wording in deviations if "peak floor" in wording]
    assert len(said) == 1
    assert "changed from " in said[0]
    assert "after testing had started (Maren Reviewer; reason: noise; tested before: W1" in said[0]
    assert not any("peak_floor" in wording for wording in deviations)


def test_client_and_lot_changed_after_the_test_are_said_with_what_they_were(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    now = bench.get(f"/jobs/{job['id']}")
    names = ("client", "product", "material", "due_at", "priority", "client_remark", "shelf")
    request = {name: now[name] for name in names} | {"lot": "B-9"}
    maren.put(f"/jobs/{job['id']}", request | {"revision": now["revision"], "reason": "a slip"})
    assert refused_to(bench, job["id"]) == "release.own-work"
    (said,) = [
        wording
        for wording in bench.get(f"/jobs/{job['id']}/draft")["deviations"]
        if wording.startswith("Lot: ")
    ]
    assert f"changed from {now['lot']} to B-9 on" in said
    assert "(Maren Reviewer; reason: a slip)" in said


def test_what_was_changed_before_the_first_run_is_no_deviation(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test = bench.get(f"/jobs/{job['id']}")["tests"][0]
    request = {"parameters": {"peak_floor": 0.3}, "revision": test["revision"], "reason": "noise"}
    bench.put(f"/tests/{test['id']}", request)
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    assert not any("after testing had started" in wording for wording in deviations)


def test_a_corrected_report_says_what_changed_and_both_verdicts(bench: Bench) -> None:
    job = bench.tested_job()
    assert bench.as_("maren").release(job["id"]).status_code == 200
    maren = bench.as_("maren")
    path = f"/jobs/{job['id']}"
    first = bench.get(path)["reports"][0]
    maren.post(f"{path}/correction", {"reason": "the client gave the wrong limit"})
    test = bench.get(path)["tests"][0]
    criterion = {"on": "mean", "limit": "1.0"}
    body = [{"property": "tear_force", "direction": "warp", "criterion": criterion}]
    request = {"limits": body, "revision": test["revision"], "reason": "as in the order"}
    bench.put(f"/tests/{test['id']}/limits", request)
    draft = bench.get(f"{path}/draft")
    assert draft["corrects"]["verdict"] == first["verdict"]
    fields = {line["field"]: line for line in draft["changes"]}
    line = fields["Limit of tear force warp"]
    assert line["after"] == "mean ≥ 1.0\N{NO-BREAK SPACE}N"
    assert line["before"].startswith("mean ≥ ")
    assert (line["why"], line["who"]) == ("as in the order", "Ines Tester")
    assert bench.as_("maren").release(job["id"]).status_code == 200
    newest = bench.get(path)["reports"][-1]
    content = bench.get(f"/reports/{newest['id']}.json")
    assert [each["field"] for each in content["changes"]] == list(fields)
    wording, *_ = pages_of(bench.call("GET", f"/reports/{newest['id']}.pdf").content)
    assert "What changed since revision 1" in wording
    assert "as in the order" in wording
    assert verify().sentences == []


def test_a_withdrawn_report_stays_readable_and_says_so_on_every_page(bench: Bench) -> None:
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    report = bench.get(f"/jobs/{job['id']}")["reports"][0]
    path = f"/reports/{report['id']}"
    request = {"reason": "the cell was out of service", "password": PASSWORD}
    assert bench.refused("POST", f"{path}/withdraw", 403, json=request) == "access.role"
    maren = bench.as_("maren")
    wrong = request | {"password": "guess"}
    assert maren.refused("POST", f"{path}/withdraw", 403, json=wrong) == "password.wrong"
    job = maren.post(f"{path}/withdraw", request)
    said = job["reports"][0]["withdrawn"]
    assert said.startswith("Withdrawn on ")
    assert said.endswith("by Maren Reviewer: the cell was out of service")
    assert maren.refused("POST", f"{path}/withdraw", 409, json=request) == "report.withdrawn"
    assert bench.get(f"{path}.json")["withdrawn"] == said
    pages = pages_of(bench.call("GET", f"{path}.pdf").content)
    assert pages != []
    assert all("Withdrawn on" in page for page in pages)
    assert verify().sentences == []


def test_a_photograph_of_a_tested_specimen_goes_only_with_a_reason(bench: Bench) -> None:
    job = bench.tested_job()
    specimen = bench.specimen(job, "W1")
    photo = {"file": ("a.jpg", picture(), "image/jpeg")}
    form = {"shows": "the torn leg"}
    path = f"/specimens/{specimen['id']}/photographs"
    (kept,) = bench.call("POST", path, files=photo, data=form).json()
    said = bench.refused("DELETE", f"/photographs/{kept['id']}", 409)
    assert said == "photo.reason-needed"
    assert bench.call("DELETE", f"/photographs/{kept['id']}?reason=blurred").status_code == 200
    deviations = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    (wording,) = [each for each in deviations if each.startswith("Photograph of W1")]
    assert "changed from the torn leg, not in the report to removed" in wording
    assert "reason: blurred" in wording


def test_a_grammage_changed_after_the_test_needs_a_reason_and_is_said(bench: Bench) -> None:
    job_id = cut(bench, sheet_of(bench, PLAIN, material="woven", width_mm=1500))["job_id"]
    bring_in(bench, job_id, ["L1"], round="preliminary", burn_time_s=4.0)
    test = bench.get(f"/jobs/{job_id}")["tests"][0]
    path = f"/tests/{test['id']}/grammage"
    request: dict[str, Any] = {"masses_g": [2.0, 2.1], "revision": test["revision"]}
    assert bench.refused("POST", path, 409, json=request) == "measuring.reason-needed"
    bench.post(path, request | {"reason": "the balance was not levelled"})
    (said,) = [
        wording
        for wording in bench.get(f"/jobs/{job_id}/draft")["deviations"]
        if "grammage" in wording
    ]
    assert "reason: the balance was not levelled" in said
