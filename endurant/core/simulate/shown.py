"""What a specimen does under a device that does not record, seeded by its code.

Each function is one physics. It is given the specimen's luck and what is asked for (the set-up,
the mass or count that is due), and says what a person or a scale would read: by the names of the
readings of the methods.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from math import exp
from random import Random

ReadRequest = Mapping[str, float | str]
Shown = dict[str, float | bool | str]
Show = Callable[[Random, ReadRequest], Shown]

HOLDS_G, HOLDS_SD_G = 152.0, 14.0
USUAL_FLOW = 1.7
SCUFFS_AT, WEARS_AT = 260, 19_000
SEEN_FROM_N = 6.4


def luck_of(code: str) -> Random:
    """Return the luck of a specimen: the same code always has the same."""
    return Random(hashlib.sha256(code.encode()).hexdigest())  # noqa: S311 - a simulated specimen


def number(request: ReadRequest, name: str, otherwise: float) -> float:
    """Return what is asked for as a number."""
    value = request.get(name, otherwise)
    return float(value) if isinstance(value, int | float) else otherwise


def blow(luck: Random, request: ReadRequest) -> Shown:
    """Return a bar, a sheet or a board struck by a pendulum: tougher when it is warm."""
    warmth = 1 / (1 + exp(-(number(request, "temperature_c", 23.0) + 5) / 9))
    full = number(request, "pendulum_j", 0.0) or number(request, "capacity_j", 0.0)
    part = (0.22 + 0.3 * warmth) * (1 + 0.06 * luck.gauss(0, 1))
    kinds = ("C", "H", "P") if warmth > 0.5 else ("C", "C", "H")
    return {
        "energy_j": round(full * part, 2),
        "reading_j": round(full * part, 2),
        "reading_percent": round(100 * part, 1),
        "break_type": luck.choice(kinds),
    }


def dart(luck: Random, request: ReadRequest) -> Shown:
    """Return a film under a falling dart: each place holds up to a mass of its own."""
    place = Random(f"{luck.random()} {request.get('turn')}")  # noqa: S311 - a simulated film
    return {"failed": number(request, "mass_g", 0.0) > place.gauss(HOLDS_G, HOLDS_SD_G)}


def flow(luck: Random, request: ReadRequest) -> Shown:
    """Melt through a die: the piston comes down at a steady pace, now and then with a bubble."""
    flow_rate = USUAL_FLOW * (1 + 0.02 * luck.gauss(0, 1))
    turn = Random(f"{luck.random()} {request.get('turn')}")  # noqa: S311 - a simulated melt
    here = flow_rate * (1 + 0.01 * turn.gauss(0, 1))
    interval_s = number(request, "cut_interval_s", 20.0)
    mass_g = here * interval_s / 600
    travel_mm = number(request, "travel_mm", 6.35)
    return {
        "length_mm": round(10 * mass_g / (0.711 * 0.7636), 2)
        if request.get("method") == "melt-density"
        else round(10 * mass_g / (0.04 * 0.92), 1)
        if "cut_interval_s" in request
        else travel_mm,
        "time_s": round(600 * 0.711 * travel_mm / 10 / (here / 0.7636), 2),
        "bubbles": turn.random() < 0.08,
    }


def flame(luck: Random, request: ReadRequest) -> Shown:
    """Return a cloth at 45 degrees: plain ones often go out, raised ones flash."""
    burn_time_s = round(max(luck.gauss(5.6, 1.1), 1.2), 1)
    if request.get("surface") == "raised":
        code = luck.choice(("SFuc", "SFonly", "SFonly", "SFBBpoi", "SFBB"))
        return {"code": code} | ({} if code == "SFuc" else {"burn_time_s": burn_time_s})
    if luck.random() < 0.35:
        return {"code": luck.choice(("DNI", "IBE"))}
    return {"code": "BURN", "burn_time_s": burn_time_s}


def wear(luck: Random, request: ReadRequest) -> Shown:
    """A surface that is rubbed, scratched or graded: it lasts to a count or a force of its own."""
    usual = WEARS_AT if request.get("method") == "iso-12947-2" else SCUFFS_AT
    lasts = usual * (1 + 0.15 * luck.gauss(0, 1))
    seen_from_n = SEEN_FROM_N * (1 + 0.08 * luck.gauss(0, 1))
    looker = Random(f"{lasts} {request.get('turn')}")  # noqa: S311 - a simulated assessor
    step = 7 + looker.choice((0, 0, 0, 1, -1))
    return {
        "count": number(request, "count", 0.0),
        "acceptable": number(request, "count", 0.0) < lasts,
        "visible": number(request, "force_n", 0.0) >= seen_from_n,
        "grade": f"{(step + 1) // 2}" if step % 2 else f"{step // 2}-{step // 2 + 1}",
    }


def pack(luck: Random, request: ReadRequest) -> Shown:
    """Return a pack that is dropped, shaken, or held under vacuum: dents come with every blow."""
    blows = number(request, "turn", 1.0) + number(request, "minutes", 0.0) / 20
    dents = min(int(blows * luck.uniform(0.15, 0.4)), 3)
    leaks = luck.random() < 0.07
    return {
        "damage_outside": float(dents),
        "damage_inside": float(max(dents - 2, 0)),
        "leak": False,
        "bubbles": "stream" if leaks else luck.choice(("none", "none", "clinging")),
        "place": luck.choice(("corner", "end-seal")) if leaks else "",
        "height_mm": number(request, "height_mm", 600.0),
        "minutes": number(request, "minutes", 0.0),
    }
