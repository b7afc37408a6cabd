"""Void codes that a kind of test brings with it, so that a specimen can always be set aside.

A method lists what can go wrong with it in particular; these stand beside that.
"""

from __future__ import annotations

from collections.abc import Mapping

from endurant.core.methods.guide import BenchPicture, Observation
from endurant.core.methods.method import Method

SET_ASIDE = Observation(
    "set-aside", "Set aside, for another reason", "void", "set aside for the reason written down"
)


def _void(code: str, title: str, says: str) -> Observation:
    return Observation(code, title, "void", says)


CAME_LOOSE = _void("came-loose", "Came loose", "it came loose from its holder")
STOPPED_EARLY = _void("stopped-early", "Stopped early", "the run was stopped before its end")
WRONG_MEDIUM = _void("wrong-medium", "Wrong medium", "it was worked with another medium than asked")
SEATED_WRONG = _void("seated-wrong", "Seated wrong", "it was not seated as it should be")
STRUCK_TWICE = _void("struck-twice", "Struck twice", "it was struck a second time")
SLIPPED = _void("slipped-in-clamp", "Slipped in the clamp", "it slipped in its clamp")

VOIDS: Mapping[BenchPicture, tuple[Observation, ...]] = {
    "burst": (
        _void("jaw-burst", "Burst at the ring", "it burst within 2 mm of the ring"),
        SLIPPED,
        _void("diaphragm-leak", "Diaphragm leaks", "the diaphragm leaked"),
        SEATED_WRONG,
    ),
    "rig": (
        _void("off-centre", "Off centre", "it stood off the middle of the rig"),
        _void("support-moved", "Support moved", "a support moved under the load"),
    ),
    "swing": (SEATED_WRONG, STRUCK_TWICE),
    "staircase": (
        SLIPPED,
        _void("missed-the-middle", "Missed the middle", "a dart struck beside the middle"),
    ),
    "cuts": (
        _void("contaminated", "Contaminated", "something else was in the barrel"),
        _void("window-missed", "Window missed", "a time that the charge has was missed"),
    ),
    "burn": (
        _void("flame-missed", "Flame missed", "the flame did not meet the lower edge"),
        _void("thread-slack", "Thread slack", "the stop thread hung slack"),
        _void("draught", "Draught", "a draught moved the flame"),
    ),
    "looks": (CAME_LOOSE, STOPPED_EARLY),
    "grades": (CAME_LOOSE, WRONG_MEDIUM, STOPPED_EARLY),
    "weigh": (),
    "drops": (
        _void("wrong-position", "Wrong position", "it fell on another place than was due"),
        STRUCK_TWICE,
    ),
    "leak": (
        _void("water-inside-before", "Water inside before", "water was inside before the vacuum"),
        _void("lid-lifted", "Lid lifted", "the lid of the jar lifted"),
    ),
    "trace": (),
    "paired-trace": (),
}
"""What every method of a bench picture can be voided for."""


def observations_of(method: Method) -> tuple[Observation, ...]:
    """Every code that a technician may choose for a specimen of this method."""
    return with_voids(method.guide.observations, method.guide.bench)


def with_voids(own: tuple[Observation, ...], bench: BenchPicture) -> tuple[Observation, ...]:
    """A method's own observations, those of its bench picture, and last `set-aside`."""
    listed = {observation.code for observation in own}
    shared = (*VOIDS[bench], SET_ASIDE)
    return (*own, *(void for void in shared if void.code not in listed))
