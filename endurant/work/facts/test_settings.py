"""The parameters of a test and who settles them: client and method, the bench, or the lab."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from endurant.core.decimal_commas import with_figures
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import owner_of
from endurant.core.methods.properties import Digits
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid
from endurant.store.tables import Test


def title_of(test: Test) -> str:
    """The title of a test in its job: "Colour rub, wet" where its method makes one of each way."""
    method = find_method(test.method)
    ways = [test.parameters.get(name) for name in method.guide.splits]
    return ", ".join([method.title, *(str(way) for way in ways if way is not None)])


def set_up_names(method: Method) -> list[str]:
    """The parameters that are settled at the bench."""
    kind = method.parameters
    return [name for name in kind.model_fields if owner_of(kind, name) == "set-up"]


def missing_set_up(test: Test) -> list[str]:
    """What must still be set at the bench before a figure can be computed."""
    method = find_method(test.method)
    return [
        name
        for name in set_up_names(method)
        if method.parameters.model_fields[name].is_required() and name not in test.parameters
    ]


def requested_parameters(method: Method, given: dict[str, Any]) -> dict[str, Any]:
    """Parameters as they are written down at the counter, defaults included.

    What exists only at the bench may be left open. Raises Invalid for anything else that is
    missing or not valid.
    """
    read = with_figures(method.parameters, given)
    whole = read_model(method.parameters, read, "parameters", left_open=set_up_names(method))
    plain: dict[str, Any] = (whole or partial(method, read)).model_dump(mode="json")
    return plain


def partial(method: Method, given: dict[str, Any]) -> Any:
    """The model with what was given and the defaults; what is open at the bench is left out."""
    digits = {
        name: Digits.model_validate(specimen)
        for name, specimen in given.get("reported_to", {}).items()
    }
    return method.parameters.model_construct(**given | {"reported_to": digits})


def parameters_of(test: Test) -> Any:
    """The parameters of a test as its method's model, open set-up or not."""
    method = find_method(test.method)
    if missing_set_up(test):
        return partial(method, test.parameters)
    return method.parameters.model_validate(test.parameters)


def with_set_up(test: Test, given: dict[str, Any], also: Sequence[str] = ()) -> dict[str, Any]:
    """The parameters with other set-up; raises Invalid for what is not set at the bench.

    Parameters named in `also` may be given too, as long as nothing stands there.
    """
    method = find_method(test.method)
    bench = set_up_names(method)
    for name in given:
        is_empty = test.parameters.get(name) in (None, "", [])
        if name not in bench and not (name in also and is_empty):
            named = ", ".join(bench) or "nothing"
            raise Invalid("set-up.not-a-set-up-value", name=name, known=named, field=name[:40])
    merged = {**test.parameters, **with_figures(method.parameters, given)}
    whole = read_model(method.parameters, merged, "set-up", left_open=bench)
    plain: dict[str, Any] = (whole or partial(method, merged)).model_dump(mode="json")
    return plain
