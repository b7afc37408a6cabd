"""Parameters that every method has, and who settles each."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import BaseModel, Field

from endurant.core.fields import Name, Strict
from endurant.core.methods.properties import Digits
from endurant.core.rounding import RoundingRule

Owner = Literal["requested", "set-up", "laboratory"]


class Parameters(Strict):
    """Parameters that every method has.

    Each has an owner: it is `requested` by client and method, `set_up` at the bench, or a setting
    of the `laboratory`. A class names its own; those of its base classes count too.
    """

    set_up: ClassVar[tuple[str, ...]] = ()
    laboratory: ClassVar[tuple[str, ...]] = ("rounding", "reported_to")

    reported_to: dict[Name, Digits] = Field(
        default_factory=dict,
        max_length=40,
        description="Digits that the laboratory reports a property to, where they are not the "
        "method's.",
    )
    rounding: RoundingRule = Field(
        "half-even", description="How a tie is rounded: to the even digit, or away from zero."
    )
    specimens_wanted: int = Field(
        1, strict=True, ge=1, le=1000, description="Valid specimens wanted in each direction."
    )


def owner_of(parameters: type[BaseModel], name: str) -> Owner:
    """Who settles a parameter."""
    classes = parameters.__mro__
    if any(name in vars(kind).get("set_up", ()) for kind in classes):
        return "set-up"
    return (
        "laboratory"
        if any(name in vars(kind).get("laboratory", ()) for kind in classes)
        else "requested"
    )


def requested(count: int) -> Any:
    """Return the field `specimens_wanted` of a method that asks for `count` in each direction."""
    return Field(
        count, strict=True, ge=1, le=1000, description="Valid specimens wanted in each direction."
    )
