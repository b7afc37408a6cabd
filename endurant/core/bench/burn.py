"""A cloth at 45 degrees: out of the desiccator in time, fan off, flame, what burned, fan on."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.picture import Columns, DeviceKind, Drawing, asks_for, by_hand, holds_of
from endurant.core.bench.procedure import Act, State, Timer
from endurant.core.methods.burning_table import PLAIN_CODES, RAISED_CODES
from endurant.core.methods.guide import Ask
from endurant.core.methods.method import Method
from endurant.core.quantities import in_numbers

CLOCK = "transfer"


class BurnPicture:
    """One specimen in the cabinet. The fan is off before the flame, and on only after it burned."""

    device: DeviceKind | None = None

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """Dried and cooled, taken out, fan off, flame, thread, fan on."""
        checks = method.guide.ready_checks
        holds = holds_of(checks)
        codes = RAISED_CODES if parameters.get("surface") == "raised" else PLAIN_CODES
        most_s = float(parameters.get("max_transfer_s") or 45)
        return (
            Act(
                code="refurbished",
                title="{label} was refurbished",
                why="One dry clean, then one home wash and dry; the same table is read again.",
                button="It was refurbished",
                optional=True,
                asks=(Ask("refurbishing", "What was done, where and when", kind="text"),),
                sets={"state": "refurbished"},
            ),
            *by_hand(checks),
            Act(
                code="taken-out",
                title="Take {label} out of the desiccator",
                why=f"From now on it takes up water: flame within {in_numbers(most_s)} s.",
                button="It is out of the desiccator",
                starts=Timer(
                    CLOCK,
                    "From desiccator to flame",
                    "at-most",
                    most_s,
                    within_s=0.0,
                    fact="transfer_s",
                ),
            ),
            Act(
                code="fan-off",
                title="Holder in, door shut, fan off",
                why="A draught feeds the flame. The fan is off while it burns, and on right after.",
                button="The fan is off",
                confirms={"fan-off": "Fan off"},
                tells="fan-off",
            ),
            Act(
                code="lit",
                title=f"{'; '.join(holds.values()) or 'Nothing loose near'}?",
                why="Then the flame for 1 s at the lower edge; the timer runs to the thread.",
                button="All is clear, {label} is lit",
                confirms=holds,
                hold=True,
                caution="Open flame: extinguisher and water at hand, nothing loose near, gas off "
                "when not in use. Local fire rules go before this page.",
                ends=CLOCK,
                tells="light",
            ),
            Act(
                code="burned",
                title="What burned, and how long to the thread?",
                why="The code says what the flame did; only what reached the thread has a time.",
                button="Write it down",
                asks=(
                    *asks_for(method, ("round", "side")),
                    Ask(
                        "code",
                        "what burned",
                        kind="choice",
                        choices=tuple(codes),
                        words=codes,
                    ),
                    *asks_for(method, ("burn_time_s",)),
                ),
            ),
            Act(
                code="fan-on",
                title="Fan on, to clear the fumes",
                why="Off while it burns, on right after.",
                button="The fan is on",
                confirms={"fan-on": "Fan on"},
                tells="fan-on",
                caution="Gloves: the holder is hot.",
            ),
        )

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """What was written down, and how long it was on its way."""
        return {name: fact for name, fact in state.facts.items() if name != "refurbishing"}

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Nothing is set on a device."""
        return {}
