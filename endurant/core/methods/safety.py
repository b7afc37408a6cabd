"""Cautions and ready checks that many methods share, in one wording."""

from __future__ import annotations

from endurant.core.methods.guide import ReadyCheck

LOCAL = "Local rules and the licensed practice of your site have precedence over this page."
PINCH = "Jaws pinch: keep fingers clear while they close and while the crosshead moves."
BLADES = "Knives, dies and shears: cut away from the hand, on a mat, with the guard on."
HOT_KNIFE = (
    "Hot knife: it burns skin and its fumes are harmful; heat-proof gloves, extractor on, and "
    "never laid down hot on the bench."
)
FRAGMENTS = "Stiff specimens break into flying pieces: guard closed, eye protection on."
SNAP = "A stretched specimen snaps back when it breaks: guard closed, face out of its plane."
FLAME = "Open flame: nothing else that burns within reach; extinguisher and water at hand."
PRESSURE = "Pressure behind the diaphragm: guard closed before the run, vent before opening."
PENDULUM = (
    "A raised pendulum crushes hands: use the catch, and keep everyone out of its path until it "
    "hangs at rest."
)
SOLVENTS = "Solvents: gloves, extractor, no flame; keep the safety sheet of the liquid at hand."
HEAVY_DROP = "Falling masses: hands clear of the head unless it is caught or down."
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
    "fingers-clear", "Hands and objects clear of the platens", "platens crush", hold=True
)
PROBE_CLEAR = ReadyCheck(
    "fingers-clear",
    "Fingers clear of the probe",
    "it is driven through what lies under it",
    hold=True,
)
GRAB_FACES = ReadyCheck(
    "grab-faces",
    "Grab faces 25 mm wide fitted",
    "wider faces hold more yarns and read higher",
    set_up=True,
)


def frame_checks(
    *more: ReadyCheck,
    because: str = "every strain is divided by this length",
    clear: ReadyCheck | None = None,
    jaws: str = "Jaws {gauge_mm} mm apart",
    platens: bool = False,
    force_first: bool = False,
) -> tuple[ReadyCheck, ...]:
    """Return the list gone through before a run: distance, speed, zero, the method's own, fingers.

    `because` is why the distance counts in this test, `clear` what must be clear in place of
    fingers between jaws. `platens` (or a probe) start where they stand, and `force_first` zeroes
    the force before both grips are closed.
    """
    start = ReadyCheck("gauge-length", jaws, because, reads="gauge-length")
    if platens:
        start = ReadyCheck("at-start", "Crosshead at its start", because, reads="at-start")
    zeroed = ReadyCheck(
        "zeroed",
        "Force and extension at zero",
        "a force shown before the run is added to every value",
        reads="zeroed",
    )
    first = ReadyCheck(
        "force-zeroed",
        "Force zeroed, the specimen in one grip at most",
        "zeroing later would hide the force that the grips squeeze in",
        reads="force-zeroed",
    )
    travel = ReadyCheck(
        "zeroed", "Extension at zero", "extension and strain count from here", reads="travel-zeroed"
    )
    return (
        start,
        ReadyCheck(
            "speed",
            "Speed {speed_mm_min} mm/min",
            "mm per second would be 60 times too fast",
            reads="speed",
        ),
        *((first, *more, travel) if force_first else (zeroed, *more)),
        clear or FINGERS_CLEAR,
    )
