"""For every method of the bench: nothing is missing at its start, and only its sensor ticks it."""

from __future__ import annotations

import inspect
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest

import endurant.core
from endurant.core.bench.procedure import begin, checks_of
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.readiness import Missing, missing_for_start
from endurant.core.bench.status import SENSORS, Status, tick
from endurant.core.document import read_specimen
from endurant.core.methods import all_methods
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid
from tests.examples import example, names

LIVE = {method.id: method for method in all_methods().values() if method.runs_live}
SET_ELSEWHERE = {"specimens_wanted", "spares", "specimens_to_test"}


def documents_of(method: Method) -> list[dict[str, Any]]:
    """The documents of its worked examples that can be computed."""
    found = [name for name in names(f"{method.id}--") if "--refused" not in name]
    return [example(name)["document"] for name in found]


def entry_of(method: Method) -> tuple[dict[str, Any], dict[str, Any]]:
    """Parameters as somebody sets them up, and a specimen of a worked example."""
    document = documents_of(method)[0]
    entry = document["specimens"][0]
    own = {name: entry[name] for name in ("label", "direction", "dimensions") if name in entry}
    return {**method.defaults, **document.get("parameters", {})}, own


def missing_of(
    method: Method, parameters: Mapping[str, Any], own: Mapping[str, Any]
) -> list[Missing]:
    state = begin(procedure_of(method), method, parameters, "S1")
    return missing_for_start(method, parameters, own, state)


def whole_of(method: Method) -> tuple[dict[str, Any], dict[str, Any]]:
    """The same with everything entered that the bench asks for."""
    parameters, own = entry_of(method)
    for _ in range(12):
        missing = missing_of(method, parameters, own)
        if not missing:
            return parameters, own
        for each in missing:
            answer = answer_to(each)
            if each.belongs == "set-up":
                parameters[each.name] = answer
            elif each.belongs == "size":
                own["dimensions"] = {**own.get("dimensions", {}), each.name: answer}
            else:
                own[each.name] = answer
    raise AssertionError(f"{method.id} never has enough: {missing}")


def answer_to(missing: Missing) -> Any:
    ask = missing.ask
    if ask.kind == "numbers":
        return [2.0, 2.0, 2.0]
    if ask.kind == "choice":
        return ask.means.get(ask.choices[0], ask.choices[0])
    if ask.kind == "text":
        return "as agreed"
    return 40.0


@pytest.mark.parametrize("method", LIVE.values(), ids=LIVE)
def test_a_start_without_a_required_value_is_refused_with_its_name(method: Method) -> None:
    parameters, own = whole_of(method)
    required = [name for name, each in method.parameters.model_fields.items() if each.is_required()]
    for name in dict.fromkeys((*required, *method.guide.needs(parameters))):
        without = {key: value for key, value in parameters.items() if key != name}
        (missing,) = [each for each in missing_of(method, without, own) if each.name == name]
        assert missing.belongs == "set-up"
        assert missing.ask.required


@pytest.mark.parametrize("method", LIVE.values(), ids=LIVE)
def test_a_start_without_a_size_that_the_method_computes_with_is_refused(method: Method) -> None:
    document = documents_of(method)[0]
    request = method.parameters.model_validate(document.get("parameters", {}))
    entry = document["specimens"][0]
    parameters, own = whole_of(method)
    for name in entry.get("dimensions") or {}:
        sizes = {key: each for key, each in entry["dimensions"].items() if key != name}
        try:
            method.analyse(read_specimen(method, {**entry, "dimensions": sizes}, 1), request)
        except Invalid:
            kept = {key: each for key, each in own["dimensions"].items() if key != name}
            lacking = {
                each.name for each in missing_of(method, parameters, {**own, "dimensions": kept})
            }
            assert name in lacking


@pytest.mark.parametrize("method", LIVE.values(), ids=LIVE)
def test_a_sensed_item_is_ticked_by_its_own_sensor_alone(method: Method) -> None:
    parameters, _ = whole_of(method)
    procedure = procedure_of(method)
    aims = {**parameters, **procedure.setup(method, parameters)}
    for check in checks_of(procedure, method, parameters):
        assert not (check.reads and check.asks), f"{check.code} is sensed and asked for"
        if check.reads is None:
            continue
        others = {
            fact: True
            for facts in SENSORS.values()
            for fact in facts
            if fact not in SENSORS[check.reads]
        }
        assert not tick(check.reads, Status("X-1", "idle", others), aims).ticked
        assert "{" not in check.title, f"{check.title} shows no number"


@pytest.mark.parametrize("method", LIVE.values(), ids=LIVE)
def test_every_parameter_of_a_method_is_read_by_something(method: Method) -> None:
    readers = "".join(source for source in sources_of(method))
    unread = [
        name
        for name in method.parameters.model_fields
        if name not in SET_ELSEWHERE and not reads_of(name, readers)
    ]
    assert unread == []


def reads_of(name: str, source: str) -> int:
    """How often a name stands in a source beside its declaration."""
    declared = len(re.findall(rf"^    {name}: ", source, re.MULTILINE))
    return len(re.findall(rf"\b{name}\b", source)) - declared


def sources_of(method: Method) -> list[str]:
    """What may read a parameter: the modules of the method, the bench, the cutting plan."""
    of_parameters = [inspect.getsourcefile(each) for each in method.parameters.__mro__[:-2]]
    of_code = [inspect.getsourcefile(inspect.unwrap(method.analyse))]
    paths = {Path(path) for path in (*of_parameters, *of_code) if path and "endurant" in path}
    core = Path(endurant.core.__file__ or "").parent
    paths |= set((core / "bench").glob("*.py")) | set((core / "cutting").glob("*.py"))
    return [path.read_text() for path in with_imported(paths, core / "methods")]


def with_imported(paths: set[Path], folder: Path) -> set[Path]:
    """These modules with those of a folder that they import, and what those import."""
    imported = {
        folder / f"{name}.py"
        for path in paths
        for name in re.findall(r"from endurant\.core\.methods\.(\w+) import", path.read_text())
    }
    more = {path for path in imported if path.exists()} - paths
    return with_imported(paths | more, folder) if more else paths
