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
                title="Fan on while nothing burns",
                why="Clear the fumes at any time before the flame is lit.",
                button="Turn fan on",
                optional=True,
                safety=True,
                tells="fan-on",
            ),
            Action(
                code="taken-out",
                title="Take {label} out of the desiccator",
                why=f"It takes up moisture from now on. Light it within {in_numbers(max_s)} s.",
                button="Confirm taken out",
                starts=Timer(
                    CLOCK,
                    "From desiccator to flame",
                    "at-most",
                    max_s,
                    within_s=0.0,
                    fact="transfer_s",
                ),
            ),
            Action(
                code="fan-off",
                title="Insert the holder, shut the door, turn the fan off",
                why="A draught feeds the flame. The fan stays off while the specimen burns.",
                button="Turn fan off",
                tells="fan-off",
                safety=True,
            ),
            Action(
                code="lit",
                title=f"Confirm: {'; '.join(holds.values()) or 'nothing loose near'}",
                why="Then apply the flame for 1 s at the lower edge. The timer runs until the "
                "thread burns through.",
                button="Light {label}",
                confirms=holds,
                hold=True,
                caution="Open flame: extinguisher and water at hand, nothing loose near, gas off "
                "when not in use. Local fire rules come before this page.",
                ends=CLOCK,
                tells="light",
            ),
            Action(
                code="burned",
                title="Record what burned and the time to the thread",
                why="The fan stays off until the flame is out. Only a flame that reached the "
                "thread has a time.",
                button="Record burn",
                asks=(
                    *asks_for(method, ("round", "side")),
                    Ask(
                        "code",
                        "what burned",
                        kind="choice",
                        choices=tuple(codes),
                        explanations=codes,
                    ),
                    *asks_for(method, ("burn_time_s",)),
                ),
            ),
            Action(
                code="fan-on",
                title="Turn the fan on to clear the fumes",
                why="The fan is off while a specimen burns and on right after.",
                button="Turn fan on",
                tells="fan-on",
                safety=True,
                caution="Gloves: the holder is hot.",
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
            title="How the cloth of {label} was refurbished",
            why="One dry clean, then one home wash and dry. The same table is read again.",
            button="Record treatment",
            asks=(
                Ask(
                    "refurbishing",
                    "treatment, place and date",
                    kind="text",
                    preset=parameters.get("refurbishing"),
                ),
            ),
            sets={"state": "refurbished"},
            early=True,
        ),
    )
