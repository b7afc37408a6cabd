"""Void codes that a kind of test brings with it, so that a specimen can always be excluded.

A method lists its own; these are added.
"""

from __future__ import annotations

from collections.abc import Mapping

from endurant.core.methods.guide import BenchProcedure, Observation
from endurant.core.methods.method import Method

SET_ASIDE = Observation(
    "set-aside", "Exclude for another reason", "void", "excluded for the recorded reason"
)


def _void(code: str, title: str, text: str) -> Observation:
    return Observation(code, title, "void", text)


CAME_LOOSE = _void("came-loose", "Came loose", "the specimen came loose from its holder")
STOPPED_EARLY = _void("stopped-early", "Stopped early", "the run was stopped early")
WRONG_MEDIUM = _void(
    "wrong-medium", "Wrong medium", "the specimen was tested with another medium than requested"
)
SEATED_WRONG = _void("seated-wrong", "Seated wrongly", "the specimen was not seated correctly")
STRUCK_TWICE = _void("struck-twice", "Struck twice", "the specimen was struck twice")
SLIPPED = _void("slipped-in-clamp", "Slipped in the clamp", "the specimen slipped in its clamp")

VOIDS: Mapping[BenchProcedure, tuple[Observation, ...]] = {
    "burst": (
        _void("jaw-burst", "Burst at the ring", "the specimen burst within 2 mm of the ring"),
        SLIPPED,
        _void("diaphragm-leak", "Diaphragm leaks", "the diaphragm leaked"),
        SEATED_WRONG,
    ),
    "rig": (
        _void("off-centre", "Off centre", "the specimen was off the centre of the rig"),
        _void("support-moved", "Support moved", "a support moved under the load"),
    ),
    "swing": (SEATED_WRONG, STRUCK_TWICE),
    "staircase": (
        SLIPPED,
        _void("missed-the-middle", "Off-centre strike", "a dart struck off the centre"),
    ),
    "cuts": (
        _void("contaminated", "Contaminated", "the barrel was contaminated"),
        _void("window-missed", "Window missed", "a time limit of the charge was exceeded"),
    ),
    "burn": (
        _void("flame-missed", "Flame missed", "the flame did not reach the lower edge"),
        _void("thread-slack", "Thread slack", "the stop thread was slack"),
        _void("draught", "Draught", "a draught moved the flame"),
    ),
    "looks": (CAME_LOOSE, STOPPED_EARLY),
    "grades": (CAME_LOOSE, WRONG_MEDIUM, STOPPED_EARLY),
    "weigh": (),
    "drops": (
        _void("wrong-position", "Wrong position", "the pack fell on the wrong position"),
        STRUCK_TWICE,
    ),
    "leak": (
        _void(
            "water-inside-before",
            "Water inside before the test",
            "water was inside before the vacuum",
        ),
        _void("lid-lifted", "Lid lifted", "the lid of the jar lifted"),
    ),
    "trace": (),
    "paired-trace": (),
}
"""The void codes of every method of a bench procedure."""


def observations_of(method: Method) -> tuple[Observation, ...]:
    """Return every code that a technician may choose for a specimen of this method."""
    return with_voids(method.guide.observations, method.guide.bench)


def with_voids(own: tuple[Observation, ...], bench: BenchProcedure) -> tuple[Observation, ...]:
    """Return a method's own observations, those of its bench procedure, and last `set-aside`."""
    listed = {observation.code for observation in own}
    shared = (*VOIDS[bench], SET_ASIDE)
    return (*own, *(void for void in shared if void.code not in listed))
