"""How a method is called in a report: its standard as standards are cited."""

from __future__ import annotations

BODIES = ("iso", "astm", "iec", "16-cfr")


def designation(method_id: str) -> str:
    """Return "ISO 13937-2" for "iso-13937-2"; a method of no standard body in words."""
    for body in BODIES:
        rest = method_id.removeprefix(f"{body}-")
        if rest != method_id:
            return f"{body.replace('-', ' ').upper()} {rest.upper()}"
    return method_id.replace("-", " ")
