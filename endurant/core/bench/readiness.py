"""What is still missing before a specimen may be started: found by asking the method itself.

The test document is built with everything but what is yet to be recorded or read, a made-up
recording stands in for that, and the method computes it. Every field that it misses is named.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from pydantic import ValidationError

from endurant.core.bench.procedure import ask_of, own_parameters
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State
from endurant.core.bench.swing import scale_of
from endurant.core.document import read_specimen
from endurant.core.field_names import title_and_unit
from endurant.core.messages import worded
from endurant.core.methods.guide import (
    Ask,
    FrameGuide,
    Measure,
    PressGuide,
    RigGuide,
)
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid

Belongs = Literal["set-up", "size", "reading", "age"]
MAX_ROUNDS = 16
SAMPLES = 120
PEAKS = 24
HIGHEST_N, TRAVEL_MM = 100.0, 20.0
CONSTANT = 0.5


@dataclass(frozen=True)
class Missing:
    """A value without which the result could not be computed, and where it is kept.

    `alternatives` are other values that serve in its place: a diameter for width and thickness.
    """

    name: str
    belongs: Belongs
    text: str
    ask: Ask


def missing_for_start(
    method: Method,
    parameters: Mapping[str, Any],
    own: Mapping[str, Any],
    state: State,
) -> list[Missing]:
    """Return everything that this specimen lacks before it may be clamped.

    `own` is what its document holds already: label, direction, state and dimensions. Set-up comes
    first; sizes and readings are looked for once the set-up is whole.
    """
    lacking = _set_up(method, parameters)
    if lacking:
        return lacking
    procedure = procedure_of(method)
    entry = {
        **own,
        **procedure.readings(method, state),
        **_rehearsed(method, parameters),
        **_yet_to_come(method, parameters, state),
    }
    later = [act for act in state.actions if act.code not in state.done]
    coming = {ask.name for act in later for ask in act.asks} | {act.collects for act in later}
    return _found_by_rehearsal(method, parameters, entry, coming)


def _set_up(method: Method, parameters: Mapping[str, Any]) -> list[Missing]:
    """Required parameters, and what the bench cannot start without."""
    model = method.parameters
    required = [name for name, field in model.model_fields.items() if field.is_required()]
    names = dict.fromkeys((*required, *method.guide.needs(parameters)))
    proposed = method.guide.proposes(parameters)
    lacking = []
    for name in names:
        if parameters.get(name) not in (None, "", []):
            continue
        ask = replace(ask_of(model, name), required=True)
        if name in proposed:
            preset = proposed[name]
            shown = " ".join(map(str, preset)) if isinstance(preset, list) else preset
            ask = replace(ask, preset=shown)
        lacking.append(Missing(name, "set-up", worded("ready.is-not-set", name=_said(name)), ask))
    return lacking


def _found_by_rehearsal(
    method: Method, parameters: Mapping[str, Any], entry: dict[str, Any], coming: Collection[str]
) -> list[Missing]:
    """What the method misses when it computes a specimen that was never tested.

    Readings that are `coming` are asked for by a later action.
    """
    found: dict[str, Missing] = {}
    for _ in range(MAX_ROUNDS):
        refusal = _refused(method, parameters, entry)
        if refusal is None:
            break
        name = (refusal.field or "").removeprefix("dimensions.")
        if not name or name in found or name in coming:
            break
        missing = _missing(method, name, refusal.sentence)
        if missing is None:
            break
        found[name] = missing
        entry = _filled(method, entry, name)
    return _with_diameter(method, list(found.values()))


def _refused(method: Method, parameters: Mapping[str, Any], entry: Mapping[str, Any]) -> Any:
    """The refusal of the method for this entry; None where it can be computed."""
    try:
        checked = method.parameters.model_validate(own_parameters(method, parameters))
        with np.errstate(all="ignore"):
            method.analyse(read_specimen(method, dict(entry), 1), checked)
    except Invalid as refusal:
        return refusal
    except (ValidationError, ArithmeticError):
        return None
    return None


def _missing(method: Method, name: str, sentence: str) -> Missing | None:
    """Where a field that is missing is kept; None for one that nobody can enter here."""
    measure = next((each for each in method.guide.measures if each.field == name), None)
    if measure is not None:
        return Missing(
            name, "size", worded("ready.was-not-measured", name=_said(name)), _size_ask(measure)
        )
    if name in method.parameters.model_fields:
        ask = replace(ask_of(method.parameters, name), required=True)
        return Missing(name, "set-up", worded("ready.is-not-set", name=_said(name)), ask)
    if name in method.readings.model_fields and name not in ("trace", "label", "dimensions"):
        ask = replace(ask_of(method.readings, name), required=True)
        return Missing(name, "reading", worded("ready.is-not-recorded", name=_said(name)), ask)
    if name.endswith("_mm"):
        title, unit = title_and_unit(name)
        ask = Ask(name, title, unit, kind="numbers", gauge="caliper", low=0.0)
        return Missing(name, "size", sentence, ask)
    return None


def _size_ask(measure: Measure) -> Ask:
    title, unit = title_and_unit(measure.field)
    gauge = "thickness-gauge" if measure.field == "thickness_mm" else "caliper"
    places = f", {measure.count} readings" if measure.count > 1 else ""
    return Ask(measure.field, f"{title}{places}", unit, kind="numbers", gauge=gauge)


def _with_diameter(method: Method, missing: list[Missing]) -> list[Missing]:
    """A round specimen has a diameter in place of width and thickness; either is enough."""
    instead = next((measure for measure in method.guide.measures if measure.instead), None)
    lacks_width = any(each.name == "width_mm" for each in missing)
    if instead is None or not lacks_width:
        return missing
    flat = [
        replace(each, ask=replace(each.ask, required=False)) if each.belongs == "size" else each
        for each in missing
    ]
    if not any(each.name == "thickness_mm" for each in flat):
        measure = next(each for each in method.guide.measures if each.field == "thickness_mm")
        ask = replace(_size_ask(measure), required=False)
        flat.append(
            Missing("thickness_mm", "size", worded("ready.thickness-was-not-measured"), ask)
        )
    ask = replace(_size_ask(instead), required=False)
    ask = replace(ask, title=worded("ready.or-of-a-round-specimen", title=ask.title))
    return [*flat, Missing(instead.field, "size", worded("ready.diameter-was-not-measured"), ask)]


def _filled(method: Method, entry: Mapping[str, Any], name: str) -> dict[str, Any]:
    """The entry with a made-up value for this field, so that the next one can be found."""
    if name in method.readings.model_fields:
        ask = ask_of(method.readings, name)
        return {**entry, name: _made_up(ask)}
    dimensions = dict(entry.get("dimensions") or {})
    dimensions[name] = [1.0]
    return {**entry, "dimensions": dimensions}


def _made_up(ask: Ask) -> Any:
    if ask.kind == "choice":
        return ask.choices[0]
    if ask.kind == "numbers":
        return [1.0]
    return 1 if ask.whole else worded("ready.made-up") if ask.kind == "text" else 1.0


def _yet_to_come(method: Method, parameters: Mapping[str, Any], state: State) -> dict[str, Any]:
    """Made-up answers to what the actions that are not done yet will ask for."""
    scale = scale_of(method, parameters)
    needed: dict[str, Any] = {}
    for act in state.actions:
        if act.code in state.done:
            continue
        for ask in act.asks:
            if ask.name in method.readings.model_fields and ask.name not in state.facts:
                needed[ask.name] = _made_up(ask)
    if scale is not None and scale.reading in needed:
        needed[scale.reading] = CONSTANT * scale.full
    if "final_gauge_mm" in needed:
        needed = {name: value for name, value in needed.items() if name not in _HALVES}
    if "length_at_break_mm" in needed:
        needed.pop("length_at_break_mm")
    return needed


_HALVES = ("final_gauge_mm", "neck_diameter_mm", "neck_width_mm", "neck_thickness_mm")


def _rehearsed(method: Method, parameters: Mapping[str, Any]) -> dict[str, Any]:
    """A made-up recording of the kind that the device will give."""
    live = method.guide.live
    if isinstance(live, FrameGuide):
        return {part: _pull(live) for part in live.parts}
    if isinstance(live, RigGuide):
        time_s = np.linspace(0, 20, SAMPLES)
        return {
            "trace": {
                "time_s": time_s.tolist(),
                "pressure_kpa": (10 * time_s).tolist(),
                "height_mm": time_s.tolist(),
            }
        }
    if isinstance(live, PressGuide):
        return _pallet(live, parameters)
    return {}


def _pull(live: FrameGuide) -> dict[str, Any]:
    x = np.linspace(0, TRAVEL_MM, SAMPLES)
    force = HIGHEST_N * x / TRAVEL_MM
    if live.jagged:
        force = HIGHEST_N * (0.75 + 0.25 * np.sin(2 * np.pi * PEAKS * x / TRAVEL_MM))
    elif live.moves is not None:
        force = HIGHEST_N * np.sin(np.pi * x / TRAVEL_MM)
        x = TRAVEL_MM * np.sin(np.pi * x / TRAVEL_MM)
    trace = {
        "time_s": np.linspace(0, 60, SAMPLES).tolist(),
        "extension_mm": x.tolist(),
        "force_n": force.tolist(),
    }
    if live.extensometer:
        trace["strain"] = (x / 100).tolist()
    return trace


def _pallet(live: PressGuide, parameters: Mapping[str, Any]) -> dict[str, Any]:
    if parameters.get("test") == "strength":
        sag = np.linspace(0, TRAVEL_MM, SAMPLES)
        sign = -1 if parameters.get("down_is") == "minus" else 1
        return {
            "trace": {
                "time_s": sag.tolist(),
                "force_n": (100 * sag).tolist(),
                "displacement_mm": (sign * sag).tolist(),
            }
        }
    names = [sensor.name for sensor in live.sensors]
    row = [1.0] * len(names)
    channels = [{"name": each.name, "x_mm": each.x_mm, "y_mm": each.y_mm} for each in live.sensors]
    rows = dict.fromkeys(("datum", "full_at_once", "full_end", "relaxed"), row)
    return {"channels": channels, "readings": rows}


def _said(name: str) -> str:
    title, unit = title_and_unit(name)
    return f"{title[:1].upper()}{title[1:]}" + (f" ({unit})" if unit else "")
