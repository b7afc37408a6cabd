"""The files of a new method: they compute what the method they are like computes."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from endurant.cli import main
from endurant.scaffold.method import STEPS, checklist, write_method
from tests.examples import FOLDER, example, names, worked

SOURCE = Path(__file__).parent.parent
LIKE = "iso-13934-1"
COMPUTE = """
import json, sys
from endurant.core.document import analyse, read_document
from endurant.core.methods import find_method
from endurant.core.simulate.traces import simulated_document
shown = json.load(open("tests/examples/" + sys.argv[1]))
method = find_method("house-strip")
assert method.guide == find_method("iso-13934-1").guide
simulated = analyse(read_document(simulated_document("house-strip", 2))).as_json()
assert all(specimen["valid"] for specimen in simulated["specimens"])
result = analyse(read_document(shown["document"])).as_json()
print(json.dumps(result["summary"]))
"""


@pytest.fixture
def source(tmp_path: Path) -> Path:
    """A copy of the source, without what the new method does not touch."""
    shutil.copytree(SOURCE / "endurant", tmp_path / "endurant", ignore=_not_needed)
    (tmp_path / "tests/examples").mkdir(parents=True)
    for name in names(f"{LIKE}--"):
        shutil.copy(FOLDER / f"{name}.json", tmp_path / "tests/examples")
    return tmp_path


def _not_needed(_: str, found: list[str]) -> set[str]:
    return {"__pycache__", "fonts", "migrations", "api", "standins", "demo"} & set(found)


def test_a_new_method_computes_at_once(source: Path) -> None:
    written = write_method("house-strip", LIKE, source)
    assert Path("endurant/core/methods/house_strip.py") in written
    assert Path("endurant/core/simulate/specimens/house_strip.py") in written
    assert len(names(f"{LIKE}--")) == sum("tests/examples" in str(path) for path in written)
    shown = worked(LIKE).replace(LIKE, "house-strip") + ".json"
    ran = subprocess.run(
        [sys.executable, "-c", COMPUTE, shown],
        check=False,
        cwd=source,
        capture_output=True,
        text=True,
    )
    assert ran.returncode == 0, ran.stderr
    expected = example(worked(LIKE))["expect"]["summary"]
    got = json.loads(ran.stdout)
    assert [row["property"] for row in got] == [row["property"] for row in expected]
    assert got[0]["mean"] == pytest.approx(expected[0]["mean"])


def test_a_method_that_reads_no_trace_gets_no_simulation(source: Path) -> None:
    for name in names("iso-535--"):
        shutil.copy(FOLDER / f"{name}.json", source / "tests/examples")
    written = write_method("70-uptake", "iso-535", source)
    assert Path("endurant/core/methods/m_70_uptake.py") in written
    assert not any("simulate" in str(path) for path in written)


@pytest.mark.parametrize(
    ("method", "like", "wording"),
    [
        ("House Strip", LIKE, "Use lower-case letters, digits and single hyphens"),
        ("x" * 41, LIKE, "at most 40 characters"),
        (LIKE, "iso-13934-2", f"{LIKE} already exists, in fabric_tension.py"),
        ("house-strip", "no-such", "“no-such” is not known"),
    ],
)
def test_what_is_no_new_method_writes_nothing(
    source: Path, capsys: pytest.CaptureFixture[str], method: str, like: str, wording: str
) -> None:
    before = sorted(source.rglob("*.py"))
    assert main(["new-method", method, "--like", like, "--root", str(source)]) == 2
    assert wording in capsys.readouterr().err
    assert sorted(source.rglob("*.py")) == before


def test_nothing_is_written_over(source: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (source / "endurant/core/methods/house_strip.py").write_text("mine")
    arguments = ["new-method", "house-strip", "--like", LIKE, "--root", str(source)]
    assert main(arguments) == 2
    assert "house_strip.py already exists. Nothing was written" in capsys.readouterr().err
    assert "house-strip" not in (source / "endurant/core/methods/__init__.py").read_text()


def test_the_page_and_the_command_say_the_same() -> None:
    page = (SOURCE / "docs/adding-a-method.md").read_text()
    assert STEPS in page
    assert "1. Run `make test`. Everything passes: a does what b does." in checklist("a", "b")
