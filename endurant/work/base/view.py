"""The base of everything that a use case gives back."""

from __future__ import annotations

from typing import Any

from pydantic import AliasChoices, BaseModel, ConfigDict, Field


class View(BaseModel):
    """Read only."""

    model_config = ConfigDict(frozen=True, from_attributes=True)


def formerly(name: str, *former: str, default: Any = ...) -> Any:
    """A field that reports of earlier releases store by another name; `default` as in `Field`."""
    return Field(default, validation_alias=AliasChoices(name, *former))
