"""The command line: documents in, results out, refusals as one sentence and exit 2."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest

from endurant.cli import main
from endurant.core.simulate.tear import TearSpecimen, sample_tear
from endurant.store.engine import DATABASE_VARIABLE, engine_for
from endurant.store.server import DatabaseServer
from endurant.work.use_cases.people.sign_in import sign_in
from tests.examples import assert_gives, example

AWNING = "iso-13937-2--awning-canvas"


def written(folder: Path, document: object) -> str:
    path = folder / "document.json"
    path.write_text(document if isinstance(document, str) else json.dumps(document))
    return str(path)


def test_a_document_is_computed(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    answer = example(AWNING)
    assert main(["analyse", written(tmp_path, answer["document"])]) == 0
    assert_gives(json.loads(capsys.readouterr().out), answer["expect"])


def test_standard_input_and_the_specimen_table(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    text = json.dumps(example(AWNING)["document"])
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(text.encode())))
    assert main(["analyse", "-", "--csv"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "label,direction,state,valid,tear_force (N),flags"
    assert lines[1].startswith("W1,warp,original,yes,23.7181818")
    assert len(lines) == 11


def test_traces_may_lie_beside_the_document(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    columns = sample_tear(TearSpecimen(4), 150)
    rows = zip(columns["extension_mm"], columns["force_n"], strict=True)
    lines = "".join(f"{x},{f / 1000!r}\n" for x, f in rows)
    (tmp_path / "w1.csv").write_text("Extension (mm),Load (kN)\n" + lines)
    document = {
        "method": "iso-13937-2",
        "specimens": [{"label": "W1", "trace": {"csv": "w1.csv"}}],
    }
    assert main(["analyse", written(tmp_path, document)]) == 0
    value = json.loads(capsys.readouterr().out)["specimens"][0]["values"]["tear_force"]["value"]
    assert value == pytest.approx(24, rel=0.1)
    document["specimens"][0]["trace"] = {"csv": "w2.csv"}  # type: ignore[index]
    assert main(["analyse", written(tmp_path, document)]) == 2
    assert "Specimen W1: w2.csv" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("text", "wording"),
    [
        ("{nonsense", "The text is not JSON"),
        ("[]", "A test document is an object"),
        ('{"method": "iso-13937-2", "specimens": 4}', "specimens"),
        (
            json.dumps(example("iso-13937-2--refused-unequal-lengths")["document"]),
            "specimen W2: trace.force_n: force_n has 157 samples, but extension_mm has 159",
        ),
    ],
)
def test_refusals_are_one_sentence_on_standard_error(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, wording: str
) -> None:
    assert main(["analyse", written(tmp_path, text)]) == 2
    captured = capsys.readouterr()
    assert captured.out == ""
    assert wording in captured.err
    assert captured.err.count("\n") == 1


def test_a_missing_file_and_a_missing_database(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    assert main(["analyse", "nowhere.json"]) == 2
    assert "nowhere.json cannot be read" in capsys.readouterr().err
    monkeypatch.delenv("ENDURANT_DATABASE", raising=False)
    assert main(["verify"]) == 2
    assert "No database is named" in capsys.readouterr().err


def test_a_log_may_lie_beside_the_conditioning_document(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rows = ["time,temperature_f,humidity_percent"]
    rows += [
        f"2026-03-02T{hour:02}:{minute:02}:00Z,68,65"
        for hour in range(10, 14)
        for minute in range(0, 60, 10)
    ]
    (tmp_path / "room.csv").write_text("\n".join(rows))
    document = {
        "atmosphere": "geo-21-65",
        "log": {"csv": "room.csv"},
        "hung_at": "2026-03-02T10:30:00Z",
        "now": "2026-03-02T13:00:00Z",
    }
    assert main(["conditioning", written(tmp_path, document)]) == 0
    readouterr = capsys.readouterr()
    assert json.loads(readouterr.out)["ready"] is True
    assert "converted to °C" in readouterr.err
    (tmp_path / "room.csv").write_text("time,temperature_c\nnoon,20\n")
    assert main(["conditioning", written(tmp_path, document)]) == 2
    assert "room.csv: Row 2: “noon” is not a time" in capsys.readouterr().err


def test_a_sheet_is_answered_or_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    request = {"width_mm": 1500, "tests": [{"method": "iso-13937-2"}], "time_limit_s": 0}
    assert main(["cutting", written(tmp_path, request)]) == 0
    loads = json.loads(capsys.readouterr().out)
    assert loads["fits"] is True
    assert {mark["name"] for mark in loads["placements"][0]["marks"]} == {"slit", "end mark"}
    assert main(["cutting", written(tmp_path, request | {"width_mm": 0})]) == 2
    assert "width_mm is 0. Enter a value greater than 0" in capsys.readouterr().err


def test_a_laboratory_is_begun_by_its_manager_in_an_empty_database(
    server: DatabaseServer, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    url = server.create("begun_by_hand")
    monkeypatch.setenv(DATABASE_VARIABLE, url)
    wording = ["found", "--name", "Quay Testing", "--login", "greta", "--person", "Greta Manager"]

    def typed(password: str) -> int:
        monkeypatch.setattr("sys.stdin", io.StringIO(f"{password}\n"))
        return main(wording)

    assert typed("short") == 2
    assert "at least 10 characters" in capsys.readouterr().err
    assert typed("long enough to keep") == 0
    assert "Greta Manager signs in as greta" in capsys.readouterr().out
    _, actor = sign_in("greta", "long enough to keep")
    assert actor.role == "manager"
    assert typed("long enough to keep") == 2
    assert "already holds a laboratory" in capsys.readouterr().err
    engine_for(url).dispose()
    server.drop("begun_by_hand")
