"""The person who asks, and what their role may do."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from endurant.core.messages import Message
from endurant.core.refusals import Forbidden

Role = Literal["trainee", "technician", "reviewer", "manager"]


_MAY: dict[str, tuple[Role, ...]] = {
    "receive": ("technician", "reviewer", "manager"),
    "cut": ("technician", "reviewer", "manager"),
    "condition": ("technician", "reviewer", "manager"),
    "test": ("technician", "reviewer", "manager"),
    "set-limits": ("technician", "reviewer", "manager"),
    "plan-schedule": ("technician", "reviewer", "manager"),
    "equip": ("reviewer", "manager"),
    "manage-people": ("manager",),
    "release": ("reviewer", "manager"),
    "see-figures": ("manager",),
    "close-nonconformities": ("reviewer", "manager"),
    "approve-products": ("reviewer", "manager"),
    "approve-densities": ("reviewer", "manager"),
}


UNDER_SUPERVISION = ("cut", "condition", "test")
"""What a trainee does under a named supervisor, who confirms it."""


@dataclass(frozen=True)
class Actor:
    """The person who asks, as the record will name them."""

    id: int
    name: str
    role: str
    supervisor_id: int | None = None

    def may(self, act: str) -> bool:
        """Whether this person may do `act`: by their role, or as a trainee under a supervisor."""
        is_supervised = self.role == "trainee" and self.supervisor_id is not None
        return self.role in _MAY[act] or (is_supervised and act in UNDER_SUPERVISION)

    def actions(self) -> list[str]:
        """Everything that this person's role may do."""
        return [act for act in _MAY if self.may(act)]

    def must(self, act: str) -> None:
        """Raises Forbidden unless this person's role may do `act`."""
        if not self.may(act):
            raise Forbidden(
                "access.role",
                role=self.role,
                action=Message(f"right.{act}"),
                roles=" or ".join(_MAY[act]),
            )
