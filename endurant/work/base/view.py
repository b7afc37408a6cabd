"""The base of everything that a use case gives back."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class View(BaseModel):
    """Read only."""

    model_config = ConfigDict(frozen=True, from_attributes=True)
