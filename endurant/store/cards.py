"""Whether what a session computes is stored in cards for those who look later."""

from __future__ import annotations

from sqlalchemy.orm import Session

_KEEPS = "keeps cards"


def keep_cards(session: Session) -> None:
    """From here on, what this session counts and computes is stored."""
    session.info[_KEEPS] = True


def keeps_cards(session: Session) -> bool:
    """What this session computes is stored."""
    return bool(session.info.get(_KEEPS))
