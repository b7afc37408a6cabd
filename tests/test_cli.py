"""The command line: documents in, results out, refusals as one sentence and exit 2."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest

from endurant.cli import main
from endurant.core.simulate.tear import TearSpecimen, sample_tear
from tests.examples import assert_gives, example

AWNING = "iso-13937-2--awning-canvas"


def written(folder: Path, document: object) -> str:
    path = folder / "document.json"
    path.write_text(document if isinstance(document, str) else json.dumps(document))
    return str(path)


def test_a_document_is_computed(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    told = example(AWNING)
    assert main(["analyse", written(tmp_path, told["document"])]) == 0
    assert_gives(json.loads(capsys.readouterr().out), told["expect"])


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
    assert "specimen W1: w2.csv" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{nonsense", "no JSON"),
        ("[]", "a test document is an object"),
        ('{"method": "iso-13937-2", "specimens": 4}', "specimens"),
        (
            json.dumps(example("iso-13937-2--refused-unequal-lengths")["document"]),
            "specimen W2: force_n has 157 samples, extension_mm has 159",
        ),
    ],
)
def test_refusals_are_one_sentence_on_standard_error(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, words: str
) -> None:
    assert main(["analyse", written(tmp_path, text)]) == 2
    captured = capsys.readouterr()
    assert captured.out == ""
    assert words in captured.err
    assert captured.err.count("\n") == 1


def test_a_missing_file_and_a_missing_database(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    assert main(["analyse", "nowhere.json"]) == 2
    assert "nowhere.json cannot be read" in capsys.readouterr().err
    monkeypatch.delenv("ENDURANT_DATABASE", raising=False)
    assert main(["verify"]) == 2
    assert "no database is named" in capsys.readouterr().err
