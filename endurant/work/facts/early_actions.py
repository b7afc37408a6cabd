"""What is done to a specimen before conditioning, such as mounting: confirmed as it is placed."""

from __future__ import annotations

from endurant.core.bench.actions import Action
from endurant.core.bench.procedure import by_hand, checks_of
from endurant.core.bench.procedures import procedure_of
from endurant.core.methods import find_method
from endurant.store.tables import Specimen
from endurant.work.facts.called_specimens import due_of


def early_acts(specimen: Specimen) -> list[Action]:
    """What has to be done to a specimen before it is placed, in the round that it belongs to."""
    test = specimen.test
    method, due = find_method(test.method), due_of(specimen)
    aims = {**test.parameters, **(due.presets if due else {})}
    return by_hand(checks_of(procedure_of(method), method, aims), early=True)
