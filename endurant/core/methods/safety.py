"""Cautions and ready checks that many methods share, in one wording."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from endurant.core.methods.guide import ReadyCheck

LOCAL = "Local rules and the licensed practice of your site go before what this page says."
PINCH = "Jaws pinch: keep fingers clear while they close and while the crosshead moves."
BLADES = "Knives, dies and shears: cut away from the hand, on a mat, with the guard on."
HOT_KNIFE = (
    "Hot knife: it burns skin and its fumes are harmful; heat-proof gloves, extractor on, and "
    "never laid down hot on the bench."
)
FRAGMENTS = "Stiff specimens break into flying pieces: guard closed, eye protection on."
SNAP = "A stretched specimen snaps back when it breaks: guard closed, face out of its plane."
HEAT = "Hot barrel, hot melt: heat-proof gloves and a face shield; melt can spit when it is loaded."
FLAME = "Open flame: nothing else that burns within reach; extinguisher and water at hand."
PRESSURE = "Pressure behind the diaphragm: guard closed before the run, vent before opening."
PENDULUM = (
    "A raised pendulum crushes what it meets: use the catch, and keep everybody out of its path "
    "until it hangs at rest."
)
SOLVENTS = "Solvents: gloves, extractor, no flame; keep the safety sheet of the liquid at hand."
HEAVY_DROP = "Falling masses: nobody reaches under the head unless it is caught or down."
VIBRATION = "A shaken load walks: stand clear of the table, and stop it before you touch the load."
OVEN = "Hot oven: heat-proof gloves, no solvent-wet specimen inside, the door opened from the side."
CHAMBER = (
    "Chamber: cold and hot surfaces burn skin; insulated gloves and eye protection, and "
    "ventilation where solid carbon dioxide or nitrogen cools it."
)
COLD = "Cold specimens burn skin: insulated gloves; solid carbon dioxide only with ventilation."

FINGERS_CLEAR = ReadyCheck(
    "fingers-clear", "Fingers clear of the jaws", "jaws close with force enough to crush", hold=True
)
PLATENS_CLEAR = ReadyCheck(
    "fingers-clear", "Nothing and nobody between the platens", "platens crush", hold=True
)
PROBE_CLEAR = ReadyCheck(
    "fingers-clear",
    "Fingers clear of the probe",
    "it is driven through what lies under it",
    hold=True,
)
GUARD_CLOSED = ReadyCheck(
    "guard-closed", "Guard closed", "what breaks flies, and what snaps whips", hold=True
)


def retitled(checks: Sequence[ReadyCheck], code: str, title: str) -> tuple[ReadyCheck, ...]:
    """The same checks, one of them in other words."""
    return tuple(replace(check, title=title) if check.code == code else check for check in checks)


def frame_checks(
    gauge: str,
    speed: str,
    *more: ReadyCheck,
    because: str = "every strain is divided by this length",
    clear: ReadyCheck | None = None,
) -> tuple[ReadyCheck, ...]:
    """What is gone through before a run: distance, speed, zero, the method's own, fingers.

    `because` is why the distance counts in this test; `clear` what must be clear in place of
    fingers between jaws.
    """
    return (
        ReadyCheck(
            "gauge-length",
            gauge,
            because,
            reads="gauge-length",
        ),
        ReadyCheck("speed", speed, "per second would be 60 times too fast", reads="speed"),
        ReadyCheck(
            "zeroed",
            "Force and extension at zero",
            "what the frame shows before the pull is added to every figure",
            reads="zeroed",
        ),
        *more,
        clear or FINGERS_CLEAR,
    )
