"""Believable traces for every method that reads one, seeded, with the faults that happen.

The same seed gives the same specimen. A fault changes the trace as the bench would, and
where a person would see it (a slip, a break at the grip) the entry carries what they say.
How the specimens of a method behave stands in `simulate/specimens`, in a module of the name that
the module of the method has.
"""

from __future__ import annotations

import importlib
from collections.abc import Mapping
from functools import cache
from pkgutil import iter_modules
from typing import Any

import numpy as np

from endurant.core.methods import MODULES
from endurant.core.simulate import specimens
from endurant.core.simulate.shapes import SimulatedMethod, SimulatedPull, SpecimenFault


@cache
def _modules() -> frozenset[str]:
    return frozenset(module.name for module in iter_modules(specimens.__path__))


@cache
def simulated_method(method: str) -> SimulatedMethod | None:
    """Return how specimens of a method behave; None where it reads no trace, or is not known."""
    name = MODULES.get(method)
    if name not in _modules():
        return None
    module = importlib.import_module(f"{specimens.__name__}.{name}")
    found: Mapping[str, SimulatedMethod] = module.SIMULATED
    return found.get(method)


def traced_methods() -> list[str]:
    """Return the ids of all methods that read a trace, in the order of the methods."""
    return [method for method in MODULES if simulated_method(method) is not None]


def pulled_methods() -> dict[str, SimulatedPull]:
    """Return the pull of each method whose specimens are pulled or pushed, by its id."""
    pulls = {method: pull_for(method) for method in traced_methods()}
    return {method: pull for method, pull in pulls.items() if pull is not None}


def pull_for(method: str) -> SimulatedPull | None:
    """Return how a specimen of a method is pulled or pushed; None where it is not."""
    known = simulated_method(method)
    return None if known is None else known.pull


def parameters_for(method: str) -> dict[str, Any]:
    """Return the parameters that a document of simulated specimens of a method needs."""
    known = simulated_method(method)
    return {} if known is None else dict(known.parameters)


def simulate(
    method: str, seed: int, samples: int = 2000, fault: SpecimenFault = "none"
) -> dict[str, Any]:
    """Return the entry of one simulated specimen, without its label; raises KeyError."""
    known = simulated_method(method)
    if known is None:
        raise KeyError(f"{method} has no simulated specimens")
    return known.entry(np.random.default_rng([seed, *method.encode()]), samples, fault)


def simulated_document(
    method: str, specimens: int, samples: int = 2000, fault: SpecimenFault = "none", seed: int = 1
) -> dict[str, Any]:
    """Return a test document of simulated specimens."""
    return {
        "method": method,
        "parameters": parameters_for(method) | {"specimens_wanted": specimens},
        "specimens": [
            {"label": f"S{n}"} | simulate(method, seed + n, samples, fault)
            for n in range(1, specimens + 1)
        ],
    }
