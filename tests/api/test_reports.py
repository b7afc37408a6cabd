"""Judging, release, what never changes afterwards, and proving it."""

from __future__ import annotations

import hashlib
import json
import zipfile
from io import BytesIO
from pathlib import Path
from typing import Any

import pikepdf
import pymysql
import pytest
from openpyxl import load_workbook
from sqlalchemy import text

from endurant.core.document import analyse, read_document
from endurant.reports.package import check_package
from endurant.reports.signing import KEY_VARIABLE, make_key, signature_of_pdf
from endurant.store.engine import engine_for
from endurant.store.migrate import downgrade, revisions, upgrade
from endurant.work.upkeep.verify import verify
from tests.examples import assert_gives, example
from tests.laboratory import PASSWORD, Bench, without_trigger
from tests.pdf_text import pages_of

AWNING = "iso-13937-2--awning-canvas"


def test_the_awning_canvas_over_the_api(bench: Bench) -> None:
    expected = example(AWNING)
    answer = bench.call("POST", "/analyse", content=json.dumps(expected["document"]))
    assert_gives(answer.json(), expected["expect"])
    refusal = bench.refused("POST", "/analyse", 422, content=b"{nonsense")
    assert refusal == "json.not-json"


def test_from_tested_to_released(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    draft = maren.get(f"/jobs/{job['id']}/draft")
    assert (draft["verdict"], draft["obstacles"]) == ("meets", [])
    assert maren.release(job["id"], "wrong password").json()["code"] == "password.wrong"
    released = maren.release(job["id"]).json()
    report = released["reports"][0]
    assert (report["number"], report["revision"], report["verdict"]) == ("R-0401", 1, "meets")

    pages = pages_of(maren.call("GET", f"/reports/{report['id']}.pdf").content)
    wording = " ".join(pages)
    for expected in (
        "Test report R-0401",
        "Maren Reviewer",
        "Quay Awnings",
        "peak prominence",
        "imported from the file W1.csv",
        f"page 1 of {len(pages)}",
    ):
        assert expected in wording, expected

    content = maren.get(f"/reports/{report['id']}.json")
    again = analyse(read_document(content["tests"][0]["document"])).as_json()
    assert again["summary"] == content["tests"][0]["result"]["summary"]
    table = maren.call("GET", f"/reports/{report['id']}/specimens.csv").text
    assert table.startswith(
        "label,direction,state,valid,tear_force (N),flags\nW1,warp,original,yes,"
    )
    traces = maren.call("GET", f"/reports/{report['id']}/traces.csv").text
    assert traces.count("\niso-13937-2,F5,") == 2251


def test_nobody_releases_their_own_test(bench: Bench) -> None:
    maren = bench.as_("maren")
    job = maren.job_ready_to_test()
    for direction in "WF":
        for number in range(1, 6):
            (maren if number == 1 else bench).bring_in(job, f"{direction}{number}")
    refusal = maren.release(job["id"]).json()["code"]
    assert refusal == "release.own-work"
    assert bench.release(job["id"]).json()["code"] == "access.role"
    assert bench.get(f"/jobs/{job['id']}")["released"] is False


def test_an_unfinished_job_is_not_released(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bench.bring_in(job, "W1")
    bench.bring_in(job, "W2", keep=False)
    refusal = bench.as_("maren").release(job["id"]).json()["code"]
    assert refusal == "release.not-ready"


def test_a_released_report_never_changes(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    seen = maren.get(f"/jobs/{job['id']}")
    maren.release(job["id"])
    test = seen["tests"][0]
    first = test["specimens"][0]
    for verb, path, body in (
        ("PUT", f"/tests/{test['id']}/limits", {"limits": [], "revision": test["revision"]}),
        ("POST", f"/specimens/{first['id']}/void", {"code": "jaw-slip"}),
        ("POST", f"/jobs/{job['id']}/sheet/place", {"revision": seen["revision"]}),
        (
            "POST",
            f"/jobs/{job['id']}/release",
            {"password": "bench-tests", "revision": 1, "content_sha256": "0" * 64},
        ),
    ):
        refusal = maren.refused(verb, path, 409, json=body)
        assert refusal == "job.released"
    for statement in ("UPDATE report SET verdict = 'meets'", "DELETE FROM report"):
        with (
            pytest.raises(Exception, match="never changed") as refused,
            engine_for(database).begin() as connection,
        ):
            connection.execute(text(statement))
        assert isinstance(refused.value.__cause__, pymysql.err.Error)


def test_a_correction_is_a_new_revision_and_the_old_one_stays(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    first = maren.release(job["id"]).json()["reports"][0]
    before = maren.call("GET", f"/reports/{first['id']}.pdf").content
    path = f"/jobs/{job['id']}/correction"
    assert maren.refused("POST", path, 422, json={"reason": ""}) == "correction.reason-needed"
    maren.post(path, {"reason": "the limit was misread"})
    test = maren.get(f"/jobs/{job['id']}")["tests"][0]
    limits = [row for row in test["rows"] if row["direction"] == "warp"]
    body = {
        "revision": test["revision"],
        "reason": "the limit was misread",
        "limits": [
            {
                "property": "tear_force",
                "direction": "warp",
                "criterion": limits[0]["criterion"] | {"limit": "90"},
            }
        ],
    }
    bench.call("PUT", f"/tests/{test['id']}/limits", json=body)
    reports = maren.release(job["id"]).json()["reports"]
    assert [(report["revision"], report["verdict"]) for report in reports] == [
        (1, "meets"),
        (2, "does not meet"),
    ]
    assert reports[1]["reason"] == "the limit was misread"
    with engine_for(database).connect() as connection:
        stored = connection.execute(
            text("SELECT pdf FROM report WHERE id = :id"), {"id": first["id"]}
        ).scalar_one()
    assert stored == before
    for address in (f"/reports/{first['id']}.pdf", f"/reports/{first['id']}/client.pdf"):
        replaced = pages_of(maren.call("GET", address).content)
        assert all("Replaced by revision 2 on" in page for page in replaced)
    second = maren.call("GET", f"/reports/{reports[1]['id']}.pdf").content
    assert "Replaced by" not in " ".join(pages_of(second))


def test_the_record_holds_until_someone_tampers(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    assert verify().sentences == []
    with engine_for(database).begin() as connection:
        with without_trigger(connection, "audit_entry_no_update"):
            forged = "UPDATE audit_entry SET text = 'nothing happened' WHERE id = 7"
            connection.execute(text(forged))
        connection.execute(text("UPDATE run SET sha256 = REPEAT('0', 64) WHERE id = 1"))
    assert verify().sentences == [
        "audit entry 7 was changed after it was written",
        "run 1 was changed outside the application: it differs from its audit entry",
        "the samples of run 1 are not those that were stored",
        "report R-0401 revision 1: the results cannot be computed again: "
        "The raw data of W1 is not the data that the report names.",
    ]


def test_every_change_is_in_the_audit(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    run = bench.bring_in(job, "W1", keep=False)
    bench.post(f"/specimens/{run['specimen_id']}/void", {"code": "jaw-slip"})
    wording = [event["text"] for event in bench.get(f"/jobs/{job['id']}")["events"]]
    assert wording[0] == "Ines Tester voided W1: a leg slipped in its jaw during the tear"
    assert wording[-1].startswith("Ines Tester received Test cloth")
    assert len(wording) == 6


def test_migrations_go_up_from_nothing_and_down_again(database_of_its_own: str) -> None:
    url = database_of_its_own
    assert len(set(revisions(url))) == 1
    downgrade(url)
    with engine_for(url).connect() as connection:
        tables = connection.execute(text("SHOW TABLES")).scalars().all()
    assert tables == ["alembic_version"]
    upgrade(url)


def test_the_tables_are_those_of_the_migrations(tables: str) -> None:
    from alembic import command

    from endurant.store.migrate import alembic_config

    command.check(alembic_config(tables))


def test_the_client_report_has_the_answer_on_its_first_page(bench: Bench, database: str) -> None:
    job = bench.tested_job(order_number="PO-7")
    maren = bench.as_("maren")
    draft = pages_of(maren.call("GET", f"/jobs/{job['id']}/draft/client.pdf").content)
    assert draft[0].count("Draft. Not released.") == 1
    report = maren.release(job["id"]).json()["reports"][0]
    path = f"/reports/{report['id']}"
    pdf = bench.call("GET", f"{path}/client.pdf").content
    first, second = pages_of(pdf)
    for expected in (
        "Test report R-0401",
        "PO-7",
        "ISO 13937-2",
        "Tear force, warp mean ≥ ",
        "meets every requirement above",
        "Each result is rounded to the last digit of its limit",
        "Checked and released by Maren Reviewer",
        "page 1 of 2",
    ):
        assert expected in first, expected
    assert "tears warp yarns" not in first
    assert all(f" {label} " in f" {second} " for label in ("W1", "W5", "F5"))
    assert bench.call("GET", f"{path}/client.pdf").content == pdf
    with (
        engine_for(database).begin() as connection,
        without_trigger(connection, "report_no_update"),
    ):
        connection.execute(text("UPDATE report SET client_pdf = NULL"))
    assert pages_of(bench.call("GET", f"{path}/client.pdf").content) == [first, second]
    assert bench.refused("GET", "/reports/99/client.pdf", 404) == "report.unknown"


def test_a_withdrawn_client_report_says_so_on_every_page(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    report = maren.release(job["id"]).json()["reports"][0]
    body = {"reason": "the wrong roll was tested", "password": PASSWORD}
    maren.post(f"/reports/{report['id']}/withdraw", body)
    pages = pages_of(bench.call("GET", f"/reports/{report['id']}/client.pdf").content)
    assert len(pages) == 2
    assert all("the wrong roll was tested" in page for page in pages)


def sheets_of(data: bytes) -> dict[str, list[dict[str, Any]]]:
    """The sheets of a workbook by title, their rows by the headings above them."""
    book = load_workbook(BytesIO(data))
    sheets = {}
    for sheet in book.worksheets:
        head, *rows = sheet.iter_rows(values_only=True)
        sheets[sheet.title] = [dict(zip(map(str, head), row, strict=True)) for row in rows]
    return sheets


def test_the_workbook_of_a_report_holds_the_whole_report(bench: Bench) -> None:
    job = bench.tested_job(order_number="PO-7")
    report = bench.as_("maren").release(job["id"]).json()["reports"][0]
    answer = bench.call("GET", f"/reports/{report['id']}.xlsx")
    assert 'filename="R-0401-1.xlsx"' in answer.headers["content-disposition"]
    sheets = sheets_of(answer.content)
    assert list(sheets) == ["Report", "Results", "ISO 13937-2", "Parameters", "Deviations"]
    heads = {row["Item"]: row["Value"] for row in sheets["Report"]}
    assert (heads["Report"], heads["Revision"], heads["Verdict"]) == ("R-0401", 1, "pass")
    assert (heads["Client"], heads["Order"], heads["Lot"]) == ("Quay Awnings", "PO-7", "T-1")
    warp, weft = sheets["Results"]
    rows = bench.get(f"/reports/{report['id']}.json")["tests"][0]["view"]["rows"]
    assert (warp["Direction"], weft["Direction"]) == ("warp", "weft")
    assert warp["Result"] == float(rows[0]["summary"]["reported"])
    assert (warp["Unit"], warp["n"], warp["Verdict"]) == ("N", 5, "pass")
    assert warp["SD"] == pytest.approx(rows[0]["summary"]["sd"], rel=1e-12)
    assert warp["Requirement"].startswith("mean ≥ 20")
    first = sheets["ISO 13937-2"][0]
    assert (first["Specimen"], first["Counts"]) == ("W1", "yes")
    assert first["Tear force, N"] == pytest.approx(rows[0]["rule"]["values"][0], rel=1e-12)
    speed = next(row for row in sheets["Parameters"] if row["Parameter"] == "speed")
    assert (speed["Unit"], speed["Value"], speed["Usual value"]) == ("mm/min", 100, 100)
    assert any("W1" in row["Deviation"] for row in sheets["Deviations"])


def test_a_released_report_is_signed_archived_and_packed(
    bench: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    make_key(tmp_path / "key.p12", "Harbour Test House", "")
    monkeypatch.setenv(KEY_VARIABLE, str(tmp_path / "key.p12"))
    job = bench.tested_job()
    maren = bench.as_("maren")
    draft = maren.call("GET", f"/jobs/{job['id']}/draft.pdf").content
    assert signature_of_pdf(draft) is None
    report = maren.release(job["id"]).json()["reports"][0]
    for address in (f"/reports/{report['id']}.pdf", f"/reports/{report['id']}/client.pdf"):
        pdf = maren.call("GET", address).content
        signature = signature_of_pdf(pdf)
        assert signature is not None
        assert signature.holds
        with pikepdf.open(BytesIO(pdf)) as archived:
            assert archived.open_metadata().pdfa_status == "3A"
            assert len(archived.Root.OutputIntents) == 1
            assert "/StructTreeRoot" in archived.Root
            assert unembedded_fonts(archived) == []

    file = tmp_path / "package.zip"
    file.write_bytes(maren.call("GET", f"/reports/{report['id']}/package.zip").content)
    assert check_package(file).wrong == []
    with zipfile.ZipFile(file) as archive:
        manifest = json.loads(archive.read("manifest.json"))
        assert set(manifest["files"]) == {
            *("client.pdf", "record.pdf", "report.json"),
            *("report.xlsx", "specimens.csv", "traces.csv"),
        }
        text = archive.read("report.json")
    assert hashlib.sha256(text).hexdigest() == manifest["report_sha256"]

    reason = {"reason": "Wrong jaw faces", "password": PASSWORD}
    maren.post(f"/reports/{report['id']}/withdraw", reason)
    file.write_bytes(maren.call("GET", f"/reports/{report['id']}/package.zip").content)
    checked = check_package(file)
    assert checked.wrong == []
    assert "Wrong jaw faces" in checked.seen[1]


def unembedded_fonts(pdf: pikepdf.Pdf) -> list[str]:
    """The fonts that a reader would have to have."""
    fonts = [
        each
        for each in pdf.objects
        if isinstance(each, pikepdf.Dictionary) and each.get("/Type") == "/FontDescriptor"
    ]
    assert fonts
    embedded = ("/FontFile", "/FontFile2", "/FontFile3")
    return [str(each.FontName) for each in fonts if not any(key in each for key in embedded)]
