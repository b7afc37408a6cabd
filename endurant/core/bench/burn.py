"""A cloth at 45 degrees: out of the desiccator in time, fan off, flame, what burned, fan on."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.actions import Action, Timer
from endurant.core.bench.procedure import (
    Drawing,
    asks_for,
    by_hand,
    checks_of,
    holds_of,
    reading_facts,
)
from endurant.core.bench.state import State
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.burning_table import PLAIN_CODES, RAISED_CODES
from endurant.core.methods.guide import Ask
from endurant.core.methods.method import Method
from endurant.core.rounding import in_numbers

CLOCK = "transfer"


class BurnProcedure:
    """One specimen in the cabinet. The fan is off while it burns, and may run at any other time."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Mounted before the oven; dried and cooled, taken out, fan off, flame, thread, fan on."""
        checks = checks_of(self, method, parameters)
        holds = holds_of(checks)
        codes = RAISED_CODES if parameters.get("surface") == "raised" else PLAIN_CODES
        max_s = float(parameters.get("max_transfer_s") or 45)
        return (
            *_refurbished(parameters),
            *by_hand(checks, early=True),
            *by_hand(checks),
            Action(
                code="ventilate",
                title=worded("step.fan-on-while-nothing-burns"),
                why=worded("step.clear-the-fumes-at-any-time-before-the"),
                button=worded("step.turn-fan-on"),
                optional=True,
                safety=True,
                tells="fan-on",
            ),
            Action(
                code="taken-out",
                title=worded("step.take-out-of-the-desiccator"),
                why=worded(
                    "step.it-takes-up-moisture-from-now-on-light-it", max_s=in_numbers(max_s)
                ),
                button=worded("step.confirm-taken-out"),
                starts=Timer(
                    CLOCK,
                    worded("step.from-desiccator-to-flame"),
                    "at-most",
                    max_s,
                    within_s=0.0,
                    fact="transfer_s",
                ),
            ),
            Action(
                code="fan-off",
                title=worded("step.insert-the-holder-shut-the-door-turn-the"),
                why=worded("step.a-draught-feeds-the-flame-the-fan-stays"),
                button=worded("step.turn-fan-off"),
                tells="fan-off",
                safety=True,
            ),
            Action(
                code="lit",
                title=worded(
                    "step.confirm", values="; ".join(holds.values()) or "nothing loose near"
                ),
                why=worded("step.then-apply-the-flame-for-1-s-at-the-lower"),
                button=worded("step.light"),
                confirms=holds,
                hold=True,
                caution=worded("step.open-flame-extinguisher-and-water-at-hand"),
                ends=CLOCK,
                tells="light",
            ),
            Action(
                code="burned",
                title=worded("step.record-what-burned-and-the-time-to-the"),
                why=worded("step.the-fan-stays-off-until-the-flame-is-out"),
                button=worded("step.record-burn"),
                asks=(
                    *asks_for(method, ("round", "side")),
                    Ask(
                        "code",
                        worded("step.what-burned"),
                        kind="choice",
                        choices=tuple(codes),
                        explanations=codes,
                    ),
                    *asks_for(method, ("burn_time_s",)),
                ),
            ),
            Action(
                code="fan-on",
                title=worded("step.turn-the-fan-on-to-clear-the-fumes"),
                why=worded("step.the-fan-is-off-while-a-specimen-burns-and"),
                button=worded("step.turn-fan-on"),
                tells="fan-on",
                safety=True,
                caution=worded("step.gloves-the-holder-is-hot"),
            ),
        )

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return what was recorded, and the time from desiccator to flame."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded by a device."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Nothing is set on a device."""
        return {}


def _refurbished(parameters: Mapping[str, Any]) -> tuple[Action, ...]:
    """A strip of the refurbished cloth says what was done to the cloth."""
    if parameters.get("state") != "refurbished":
        return ()
    return (
        Action(
            code="refurbished",
            title=worded("step.how-the-cloth-of-was-refurbished"),
            why=worded("step.one-dry-clean-then-one-home-wash-and-dry"),
            button=worded("step.record-treatment"),
            asks=(
                Ask(
                    "refurbishing",
                    worded("step.treatment-place-and-date"),
                    kind="text",
                    preset=parameters.get("refurbishing"),
                ),
            ),
            sets={"state": "refurbished"},
            early=True,
        ),
    )
