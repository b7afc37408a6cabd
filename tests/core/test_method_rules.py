"""The rules of single methods that the worked examples do not reach, by hand-made readings."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from endurant.core.document import analyse, read_document
from endurant.core.methods.burning_table import plain_row, raised_row
from endurant.core.methods.melting import interval_for
from endurant.core.refusals import Invalid


def computed(
    method: str, *specimens: dict[str, Any], parameters: dict[str, Any] | None = None
) -> dict[str, Any]:
    entries = [{"label": f"S{n}"} | specimen for n, specimen in enumerate(specimens, start=1)]
    document = {"method": method, "parameters": parameters or {}, "specimens": entries}
    return analyse(read_document(document)).as_json()


def first(result: dict[str, Any]) -> dict[str, Any]:
    specimen: dict[str, Any] = result["specimens"][0]
    return specimen


def codes(specimen: dict[str, Any]) -> list[str]:
    return [flag["code"] for flag in specimen["flags"]]


def value(result: dict[str, Any], name: str) -> Any:
    return first(result)["values"][name]["value"]


def pull(*points: tuple[float, float], **more: Any) -> dict[str, Any]:
    x, f = zip(*points, strict=True)
    return {"trace": {"extension_mm": list(x), "force_n": list(f)} | more}


# Tension: zero, strain source, area, break, rate, capacity


def test_the_zero_is_where_the_pretension_is_first_reached() -> None:
    specimen = pull((0, 0), (1, 1), (2, 3), (12, 103), (13, 0))
    result = computed("iso-13934-1", specimen, parameters={"pretension_n": 2.0})
    assert value(result, "elongation_at_max") == pytest.approx(100 * (12 - 1.5) / 200)
    never = computed("iso-13934-1", specimen, parameters={"pretension_n": 200.0})
    assert codes(first(never)) == ["pretension-not-reached"]
    assert not first(never)["valid"]


@pytest.mark.parametrize(("mass", "pretension"), [(200, 2), (201, 5), (500, 5), (501, 10)])
def test_the_mass_of_the_cloth_sets_the_pretension(mass: float, pretension: float) -> None:
    specimen = pull((0, 0), (20, 20), (21, 0))
    result = computed("iso-13934-1", specimen, parameters={"fabric_mass_g_m2": float(mass)})
    assert value(result, "elongation_at_max") == pytest.approx(100 * (20 - pretension) / 200)


def test_strain_goes_on_by_the_crosshead_once_the_extensometer_is_off() -> None:
    bar = {"dimensions": {"width_mm": [10.0], "thickness_mm": [4.0]}}
    specimen = bar | pull(
        (0, 0),
        (0.1, 40),
        (0.2, 80),
        (1.2, 200),
        (1.3, 0),
        strain=[0, 0.001, 0.002, None, None],
    )
    parameters = {"gauge_length_mm": 50.0, "grip_separation_mm": 100.0}
    result = computed("iso-527", specimen, parameters=parameters)
    assert value(result, "strain_at_strength") == pytest.approx(100 * (0.002 + 1.0 / 100))
    assert "strain-from-crosshead" in codes(first(result))
    slipped = specimen | {"observations": ["extensometer-slip"]}
    result = computed("iso-527", slipped, parameters=parameters)
    assert first(result)["valid"]
    assert value(result, "strain_at_strength") is None
    assert value(result, "tensile_strength") == pytest.approx(5)
    with pytest.raises(Invalid, match="trace.strain-after-null"):
        computed("iso-527", bar | pull((0, 0), (1, 1), (2, 2), strain=[0, None, 0.1]))


def test_areas_by_sections_and_by_the_smallest() -> None:
    trace = pull((0, 0), (1, 120), (2, 0))
    parameters: dict[str, Any] = {"gauge_length_mm": 50.0}
    paired = {"dimensions": {"width_mm": [10.0, 12.0], "thickness_mm": [4.0, 3.0]}}
    ragged = {"dimensions": {"width_mm": [10.0, 12.0], "thickness_mm": [4.0, 3.0, 2.0]}}
    for entry, rule, area in (
        (paired, "mean", 38),
        (paired, "minimum", 36),
        (ragged, "mean", 33),
        (ragged, "minimum", 20),
    ):
        result = computed("iso-527", trace | entry, parameters=parameters | {"area_rule": rule})
        assert value(result, "tensile_strength") == pytest.approx(120 / area)
    with pytest.raises(Invalid, match="reading.dimension-missing"):
        computed("iso-527", trace | {"dimensions": {"width_mm": [1.0]}}, parameters=parameters)
    with pytest.raises(Invalid, match="reading.gauge-length-missing"):
        computed("iso-527", trace | paired)


def test_the_break_is_before_the_drop_or_the_last_that_holds() -> None:
    bar = {"dimensions": {"width_mm": [10.0], "thickness_mm": [1.0]}}
    parameters = {"gauge_length_mm": 50.0}
    sharp = bar | pull((0, 0), (1, 100), (2, 90), (3, 40), (4, 0))
    result = computed("iso-527", sharp, parameters=parameters)
    assert value(result, "strain_at_break") == pytest.approx(4)
    slow = bar | pull((0, 0), (1, 100), (2, 70), (3, 40), (4, 10), (5, 9))
    result = computed("iso-527", slow, parameters=parameters)
    assert value(result, "strain_at_break") == pytest.approx(8)


@pytest.mark.parametrize(
    ("times", "wording"),
    [
        ([0, 60, 120, 121], None),
        ([0, 1, 2, 3], "suggests per second instead of per minute"),
        ([0, 30, 60, 61], "Requested"),
        ([0, 0, 0, 0], "does not advance"),
    ],
)
def test_the_rate_between_a_tenth_and_nine_tenths(times: list[float], wording: str | None) -> None:
    specimen = pull((0, 0), (50, 50), (100, 100), (101, 0), time_s=times)
    result = computed("iso-13934-2", specimen)
    texts = [flag["text"] for flag in first(result)["flags"]]
    assert (not texts) if wording is None else (wording in texts[0])


def test_preload_and_capacity_are_questioned() -> None:
    specimen = pull((0, 30), (10, 100), (11, 0))
    result = computed("iso-13934-2", specimen, parameters={"load_cell_n": 10_000.0})
    assert codes(first(result)) == ["preloaded-at-start", "outside-range"]
    fine = computed(
        "iso-13934-2", specimen, parameters={"max_start_force_n": 30.0, "load_cell_n": 5000.0}
    )
    assert codes(first(fine)) == []


def test_jaw_breaks_are_kept_or_void_by_the_clear_ones() -> None:
    def strip(force: float, **more: Any) -> dict[str, Any]:
        return pull((0, 0), (20, force), (21, 0)) | more

    result = computed(
        "iso-13934-1",
        strip(1000),
        strip(950),
        strip(960, break_distance_mm=5.0),
        strip(940, break_distance_mm=1.0),
        strip(955, observations=["broke-at-grip"]),
        strip(500, observations=["jaw-slip"]),
    )
    assert [codes(specimen) for specimen in result["specimens"]] == [
        [],
        [],
        ["jaw-break-kept"],
        ["jaw-break"],
        ["jaw-break-kept"],
        ["jaw-slip"],
    ]
    alone = computed("iso-13934-1", strip(900, break_distance_mm=2.0))
    assert "all-jaw-breaks" in codes(alone)


def test_yield_toe_and_a_modulus_that_nobody_believes() -> None:
    strain = np.linspace(0, 0.02, 401)
    bar = {"dimensions": {"width_mm": [10.0], "thickness_mm": [1.0]}}
    stress = 2000 * np.maximum(strain - 0.0004, 0)
    specimen = bar | {
        "trace": {
            "extension_mm": (50 * strain).tolist(),
            "force_n": (10 * stress).tolist(),
            "strain": strain.tolist(),
        }
    }
    parameters = {"gauge_length_mm": 50.0, "reference_modulus_mpa": 3000.0}
    result = computed("astm-d638", specimen, parameters=parameters)
    assert value(result, "modulus") == pytest.approx(2000)
    assert value(result, "strain_at_break") == pytest.approx(2 - 0.04)
    assert codes(first(result)) == ["modulus-implausible", "no-yield"]
    with pytest.raises(Invalid, match="modulus.window"):
        computed("iso-527", specimen, parameters=parameters | {"modulus_window": [0.002, 0.001]})
    short = computed("iso-527", specimen, parameters={"modulus_window": [0.01, 0.5]})
    assert "modulus-not-available" in codes(first(short))


def test_an_offset_yield_is_where_the_shifted_line_is_met() -> None:
    strain = np.linspace(0, 0.02, 2001)
    stress = np.where(strain < 0.002, 100_000 * strain, 200 + 1000 * (strain - 0.002))
    bar = {"dimensions": {"diameter_mm": [10.0]}}
    area = np.pi * 25
    specimen = bar | {
        "trace": {
            "extension_mm": (50 * strain).tolist(),
            "force_n": (area * stress).tolist(),
            "strain": strain.tolist(),
        },
        "final_gauge_mm": 60.0,
        "neck_diameter_mm": 8.0,
    }
    result = computed("astm-e8", specimen, parameters={"gauge_length_mm": 50.0})
    met = (200 - 2 + 1000 * 0.002 / 1) / (1 - 1000 / 100_000)
    assert value(result, "offset_yield") == pytest.approx(met, rel=2e-3)
    assert value(result, "elongation_after_fracture") == pytest.approx(20)
    assert value(result, "reduction_of_area") == pytest.approx(36)
    bare = computed(
        "astm-e8", specimen | {"final_gauge_mm": None}, parameters={"gauge_length_mm": 50.0}
    )
    assert "halves-not-measured" in codes(first(bare))


def test_rubber_marks_followed_by_hand_and_strains_not_reached() -> None:
    dumbbell = {"dimensions": {"width_mm": [6.0], "thickness_mm": [2.0, 2.2, 1.9]}}
    trace = pull((0, 0), (40, 60), (41, 0))
    by_hand = computed("iso-37", dumbbell | trace | {"length_at_break_mm": 100.0})
    assert value(by_hand, "elongation_at_break") == pytest.approx(300)
    assert "no-strain-column" in codes(first(by_hand))
    assert value(by_hand, "tensile_strength") == pytest.approx(5)
    broke = computed("iso-37", dumbbell | trace)
    assert codes(first(broke)) == ["no-extensometer", "no-strain-column"]
    request = {"specimen_form": "ring", "gauge_length_mm": 10.0}
    ring = computed("iso-37", dumbbell | trace, parameters=request)
    assert codes(first(ring)) == []
    assert value(broke, "stress_at_100") is None
    assert value(ring, "stress_at_100") == pytest.approx(60 * 10 / 40 / 12)
    with pytest.raises(Invalid, match="shorter"):
        computed("iso-37", dumbbell | trace | {"length_at_break_mm": 20.0})
    nicked = computed("astm-d624", dumbbell | trace, parameters={"die": "B"})
    assert codes(first(nicked)) == ["nick-not-recorded"]


def test_elongations_by_hand_and_by_the_crosshead_are_never_in_one_median() -> None:
    dumbbell = {"dimensions": {"width_mm": [6.0], "thickness_mm": [2.0, 2.0, 2.0]}}
    trace = pull((0, 0), (40, 60), (41, 0))
    marks = dumbbell | trace | {"length_at_break_mm": 100.0}
    result = computed("iso-37", marks, dumbbell | trace)
    rows = {row["property"]: row for row in result["summary"]}
    assert rows["elongation_at_break"]["n"] == 1
    assert rows["elongation_at_break"]["reported"] == "300"
    assert rows["tensile_strength"]["n"] == 2
    assert "mixed-elongation" in codes(result)


def test_a_seam_that_gave_way_before_its_load_has_no_opening_and_says_so() -> None:
    pulled = pull((0, 0), (10, 90), (11, 0))["trace"]
    result = computed("iso-13936-2", {"trace_sewn": pulled})
    assert value(result, "opening_at_load") is None
    assert "broke-before-load" in codes(first(result))
    held = pull((0, 0), (10, 185), (20, 5))["trace"]
    with pytest.raises(Invalid, match="reading.opening-missing"):
        computed("iso-13936-2", {"trace_sewn": held})


def test_a_remote_break_is_a_lower_bound_and_so_is_the_mean() -> None:
    peel = pull((0, 0), (5, 20), (20, 22), (25, 0)) | {"dimensions": {"width_mm": [25.0]}}
    result = computed(
        "astm-f88",
        peel | {"failure_mode": "remote-break"},
        peel | {"failure_mode": "adhesive-peel"},
        parameters={"technique": "A"},
    )
    assert first(result)["values"]["seal_strength_max"]["qualifier"] == ">"
    assert {row["qualifier"] for row in result["summary"]} == {">"}


# Seam, puncture, burst, compression


def test_an_opening_passed_in_a_jump_counts_at_the_force_of_the_jump() -> None:
    unsewn = pull((0, 0), (10, 250))["trace"]
    sewn = pull((0, 0), (6, 150), (7, 100), (16, 150.5), (22, 250))["trace"]
    result = computed("iso-13936-1", {"trace_unsewn": unsewn, "trace_sewn": sewn})
    assert value(result, "slippage_force") == pytest.approx(150)
    early = pull((0, 0), (6, 120))["trace"]
    broke = computed("iso-13936-1", {"trace_unsewn": unsewn, "trace_sewn": early})
    assert codes(first(broke)) == ["broke-before-opening"]
    assert value(broke, "break_force") == 120
    short = computed("iso-13936-1", {"trace_unsewn": early, "trace_sewn": sewn})
    assert codes(first(short)) == ["unsewn-too-short"]
    at_load = computed("iso-13936-2", {"trace_unsewn": unsewn, "trace_sewn": early})
    assert codes(first(at_load)) == ["broke-before-load"]


def test_contact_is_where_the_probe_stays() -> None:
    specimen = pull((0, 0.2), (1, 0), (2, 0.12), (3, 5), (4, 0)) | {
        "dimensions": {"thickness_mm": [0.1]}
    }
    result = computed("astm-f1306", specimen)
    assert value(result, "penetration_at_break") == pytest.approx(1)
    assert value(result, "energy_to_break") == pytest.approx((0.12 + 5) / 2)


def test_the_diaphragm_is_taken_off_at_the_height() -> None:
    burst = {"peak_pressure_kpa": 300.0, "height_at_burst_mm": 45.0, "time_to_burst_s": 30.0}
    table = {"diaphragm": [[10.0, 5.0], [40.0, 60.0]], "specimens_wanted": 1}
    result = computed("iso-13938-1", burst, parameters=table)
    assert value(result, "bursting_strength") == 240
    assert codes(first(result)) == ["diaphragm-out-of-range"]
    assert codes(result) == ["time-to-burst-out-of-window"]
    with pytest.raises(Invalid, match="reading.diaphragm-incomplete"):
        computed("iso-13938-1", {"peak_pressure_kpa": 300.0, "height_at_burst_mm": 45.0})
    with pytest.raises(Invalid, match="burst.heights-not-rising"):
        computed("iso-13938-1", burst, parameters={"diaphragm": [[10.0, 5.0], [5.0, 6.0]]})
    paper = computed("iso-2758", {"peak_pressure_kpa": 50.0}, parameters={"specimens_wanted": 1})
    assert codes(first(paper)) == ["outside-range"]
    assert codes(paper) == ["no-grammage"]


def test_a_pallet_is_read_up_to_its_limit_and_its_sign_is_checked() -> None:
    trace = {"force_n": [0.0, 50.0, 100.0, 90.0], "displacement_mm": [0.0, -20.0, -40.0, -80.0]}
    parameters = {"test": "strength", "span_mm": 1000.0, "down_is": "minus"}
    result = computed("iso-8611", {"trace": trace}, parameters=parameters)
    assert value(result, "strength_force") == 100
    assert value(result, "deflection_at_strength") == 40
    wrong = computed("iso-8611", {"trace": trace}, parameters=parameters | {"down_is": "plus"})
    assert codes(first(wrong)) == ["wrong-sign"]


def test_stack_factors_need_a_default_or_a_number() -> None:
    box = pull((0, 0), (5, 1000), (6, 900))
    stack = {"boxes_above": 2, "gross_mass_kg": 10.0, "specimens_wanted": 1}
    result = computed("iso-12048", box, parameters=stack | {"stack_factors": {"own": 2.0}})
    assert result["stacking"]["required_n"] == pytest.approx(392.4)
    assert result["stacking"]["safe_layers"] == 6
    with pytest.raises(Invalid, match="stack.factor-unknown"):
        computed("iso-12048", box, parameters=stack | {"stack_factors": {"own": None}})


# Surface, fire, melt flow, impact, packaging


def test_scratch_sides_that_are_open_and_traces_that_disagree() -> None:
    def drawn(*traces: tuple[float, bool]) -> dict[str, Any]:
        return computed(
            "scratch", {"traces": [{"force_n": f, "visible": seen} for f, seen in traces]}
        )

    assert codes(first(drawn((5, True), (4, True)))) == ["lower-side-open"]
    nothing = drawn((5, False), (10, False))
    assert codes(first(nothing)) == ["upper-side-open"]
    assert first(nothing)["values"]["threshold_force"]["qualifier"] == ">"
    mixed = drawn((10, True), (5, False), (4, True), (5, False))
    assert codes(first(mixed)) == ["not-monotonic"]
    assert codes(first(drawn((10, True), (10, False), (5, False)))) == ["traces-disagree"]
    with pytest.raises(Invalid, match="reading.scratch-step"):
        drawn((5.2, True))


def test_looks_too_far_apart_and_a_breakdown_at_the_first() -> None:
    looks = [{"count": 3000, "acceptable": False}]
    result = computed(
        "iso-12947-2",
        {"inspections": looks},
        parameters={"pressure_kpa": 9.0, "expected_rubs": 20_000, "specimens_wanted": 1},
    )
    assert codes(first(result)) == ["broke-before-first-look", "looks-too-far-apart"]
    assert value(result, "endurance") == 0


@pytest.mark.parametrize(
    ("times", "row"),
    [
        ([None] * 5, ("P1", 1)),
        ([35, None, None, None, None], ("P1", 1)),
        ([34, None, None, None, None], ("P2", None)),
        ([34, 36, None, None, None], ("P1", 1)),
        ([34, 35, None, None, None], ("P2", None)),
        ([34, *[None] * 9], ("P5", None)),
        ([34, 35, *[None] * 8], ("P4", 3)),
        ([34, 36, *[None] * 8], ("P3", 1)),
    ],
)
def test_the_table_of_plain_surfaces(times: list[int | None], row: tuple[str, int | None]) -> None:
    assert plain_row([(tenths, "BURN") for tenths in times]) == row


@pytest.mark.parametrize(
    ("times", "base_burns", "row"),
    [
        ([39], 0, ("R1", 1)),
        ([39], 1, ("R4", None)),
        ([40], 1, ("R1", 1)),
        ([70, 72], 2, ("R2", 1)),
        ([70, 70], 2, ("R3", 2)),
        ([40, 40], 2, ("R3", 2)),
        ([39, 40], 2, ("R4", None)),
        ([39, 40], 1, ("R2", 1)),
    ],
)
def test_the_table_of_raised_surfaces(
    times: list[int], base_burns: int, row: tuple[str, int | None]
) -> None:
    burned: list[tuple[int | None, str]] = [
        (tenths, "SFBB" if place < base_burns else "SFonly") for place, tenths in enumerate(times)
    ]
    five = burned + [(None, "SFuc")] * (5 - len(burned))
    assert raised_row(five) == row


def test_ten_of_a_raised_surface() -> None:
    def ten(tenths: int, base_burns: int) -> tuple[str, int | None]:
        return raised_row([(tenths, "SFBB" if n < base_burns else "SFonly") for n in range(10)])

    assert ten(39, 2) == ("R5", 1)
    assert ten(39, 3) == ("R7", 3)
    assert ten(55, 3) == ("R6", 2)
    assert ten(71, 9) == ("R5", 1)
    specimen: list[tuple[int | None, str]] = [(39, "SFBB"), *[(None, "SFuc")] * 9]
    assert raised_row(specimen) == ("R8", None)


def burned(label: str, **more: Any) -> dict[str, Any]:
    entry = {"label": label, "round": "first", "direction": "length", "code": "BURN"}
    return entry | {"burn_time_s": 5.0} | more


def test_where_a_fire_test_stands() -> None:
    plain = {"surface": "plain", "grammage_g_m2": 88.2, "fibres": ["Nylon", "cotton"]}
    five = [burned(f"A{n}") for n in range(5)]
    result = computed("16-cfr-1610", *five, burned("B1", round="further"), parameters=plain)
    assert codes(result) == ["preliminary-incomplete", "refurbished-needed", "exemption-possible"]
    assert codes(result["specimens"][5]) == ["further-not-asked"]
    late = computed("16-cfr-1610", burned("A1", transfer_s=45.1), parameters=plain)
    assert codes(first(late)) == ["too-slow"]
    assert "first-incomplete" in codes(late)
    with pytest.raises(Invalid, match="round"):
        computed("16-cfr-1610", *five, burned("A9"), parameters=plain)
    crosswise = [
        burned("P1", round="preliminary"),
        burned("P2", round="preliminary", direction="width", burn_time_s=3.0),
    ]
    wrong = computed("16-cfr-1610", *crosswise, *five, parameters=plain)
    assert codes(wrong["specimens"][2]) == ["not-quickest-way"]


@pytest.mark.parametrize(
    ("flow", "table", "seconds"),
    [
        (0.09, "iso-newer", None),
        (0.1, "iso-newer", 240),
        (0.15, "iso-newer", 120),
        (0.12, "astm", None),
        (0.15, "astm", 360),
        (10, "iso-older", 15),
        (25, "astm", 15),
    ],
)
def test_the_interval_for_a_flow(flow: float, table: str, seconds: int | None) -> None:
    assert interval_for(flow, table) == seconds


def test_clocks_bubbles_and_too_few_cuts() -> None:
    melt = {"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0}
    cuts = [{"mass_g": 0.057, "length_mm": 9.0}, {"mass_g": 0.057, "bubbles": True}]
    late = {"charge_s": 61.0, "preheat_s": 331.0, "finished_min": 25.5}
    result = computed("iso-1133-1-a", {"cuts": cuts} | late, parameters=melt)
    assert codes(first(result)) == [
        "charged-late",
        "preheat-out-of-window",
        "finished-late",
        "too-few-cuts",
        "cut-too-short",
    ]
    assert value(result, "mfr") == pytest.approx(1.71)
    none = computed("iso-1133-1-a", {"cuts": [{"mass_g": 0.05, "bubbles": True}]}, parameters=melt)
    assert value(none, "mfr") is None


def test_a_barrel_is_left_alone_or_reviewed() -> None:
    def checked(shown: float, true: float) -> dict[str, Any]:
        sensor = {"displayed_c": shown, "reference_c": true, "old_offset_c": 0.3}
        return computed("barrel-check", sensor)

    assert value(checked(190.0, 189.8), "new_offset") == 0.3
    far = checked(190.0, 189.4)
    assert value(far, "new_offset") == pytest.approx(-0.3)
    assert "0.6 °C colder" in first(far)["flags"][0]["text"]


def test_impact_by_its_clocks_and_the_pendulum_that_suits() -> None:
    bar = {
        "dimensions": {"thickness_mm": [4.0], "remaining_width_mm": [8.3]},
        "energy_j": 0.2,
        "break_type": "C",
        "rested_h": 15.0,
        "soaked_min": 29.0,
    }
    result = computed("iso-180", bar, parameters={"pendulum_j": 2.75, "friction_j": 0.01})
    assert codes(first(result)) == [
        "outside-range",
        "rest-too-short",
        "soak-too-short",
        "remaining-width-out-of-tolerance",
    ]
    fine = bar | {"rested_h": 16.0, "soaked_min": 30.0}
    result = computed("iso-180", fine, parameters={"pendulum_j": 2.75, "friction_j": 0.01})
    assert "Use the 1 J pendulum" in first(result)["flags"][0]["text"]


def test_drops_out_of_sequence_and_a_sweep() -> None:
    drops = [{"position": "2", "height_mm": 500.0}, {"position": "5-1", "height_mm": 800.0}]
    result = computed("iso-2248", {"drops": drops}, parameters={"sequence": ["2", "1", "3"]})
    assert codes(first(result)) == ["out-of-sequence", "sequence-incomplete"]
    looks = {"inspections": [{"minutes": 5.0}]}
    sweep = {"minutes": 10.0, "sweep_hz": [5.0, 50.0], "amplitude_mm": 5.0}
    result = computed("iso-8318", looks, parameters=sweep)
    assert codes(result) == ["sweep", "leaves-table"]
    borrowed = computed("iso-13355", looks, parameters=sweep | {"motion": "sinus-vertical"})
    assert codes(borrowed) == ["motion-of-another-method", "sweep", "leaves-table"]
    with pytest.raises(Invalid, match="field.unknown"):
        computed("iso-8318", looks, parameters=sweep | {"frequency_hz": 5.0})
    with pytest.raises(Invalid, match="field.unknown"):
        computed("iso-2247", looks, parameters=sweep)
    assert codes(first(result)) == ["ended-early"]
    assert value(result, "cycles") is None
    random = {"minutes": 5.0, "level_g_rms": 0.5}
    assert codes(computed("iso-13355", looks, parameters=random)) == ["random"]


def test_relaxation_ends_where_the_trace_does() -> None:
    time_s = np.linspace(0, 60, 601)
    x = np.minimum(time_s * 4, 20)
    force = np.where(time_s < 5, 2 * x, 40 - 2 * np.log10(np.maximum(time_s - 5, 1)))
    trace = {"time_s": time_s.tolist(), "extension_mm": x.tolist(), "force_n": force.tolist()}
    result = computed("relaxation", {"trace": trace})
    assert value(result, "relaxation_percent_at_10") == pytest.approx(5, rel=1e-3)
    assert value(result, "relaxation_percent_at_100") is None
    assert codes(first(result)) == ["trace-too-short"]
    assert value(result, "rate_per_decade") == pytest.approx(5, rel=1e-2)
