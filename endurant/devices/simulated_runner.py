"""What simulated rigs share that run for a time or up to a count."""

from __future__ import annotations

from endurant.devices.line import Message
from endurant.devices.simulated_indicator import SimulatedIndicator


class SimulatedRunner(SimulatedIndicator):
    """A rig that runs for a time or up to a count, and then stops by itself."""

    def __init__(self, serial: str, pace: float) -> None:
        super().__init__(serial, pace)
        self.preset_count = 0.0
        self.runs_until_s = 0.0
        self.was_started = False

    def facts(self) -> dict[str, str]:
        """The count it is set to, whether it turns, and whether it ran through by itself."""
        runs = self.now_s() < self.runs_until_s
        through = self.was_started and not runs
        return {
            "preset_count": f"{self.preset_count:g}",
            "turning": "yes" if runs else "no",
            "ran_through": "yes" if through else "no",
        }

    def do(self, act: str, message: Message) -> str:
        """Set the count, start, stop."""
        if act not in self.acts:
            return super().do(act, message)
        if "preset_count" in message.fields:
            self.preset_count = message.number("preset_count")
        run_s = float(message.fields.get("run_s", "0"))
        self.was_started = act == "start"
        self.runs_until_s = self.now_s() + run_s if act == "start" else self.now_s()
        return ""
