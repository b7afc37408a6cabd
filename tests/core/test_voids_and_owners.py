"""What holds for every method: voids, owners of parameters, digits; and rules of single ones."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.bounds import out_of_range
from endurant.core.conditioning.document import condition_document
from endurant.core.csv_dialect import csv_text
from endurant.core.document import analyse, read_document
from endurant.core.judging.document import judge_document
from endurant.core.methods import all_methods, find_method
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import owner_of
from endurant.core.methods.voids import observations_of
from endurant.core.refusals import Invalid
from endurant.work.views.guides import example_document

METHODS = list(all_methods().values())


def computed(method: str, *specimens: dict[str, Any], **parameters: Any) -> dict[str, Any]:
    labelled = [{"label": f"S{n}"} | specimen for n, specimen in enumerate(specimens, start=1)]
    document = {"method": method, "parameters": parameters, "specimens": labelled}
    return analyse(read_document(document)).as_json()


def codes(result: dict[str, Any]) -> list[str]:
    return [flag["code"] for flag in result["flags"]]


@pytest.mark.parametrize("method", METHODS, ids=lambda method: method.id)
def test_every_method_can_set_a_specimen_aside_and_says_how_else_it_voids(method: Method) -> None:
    known = observations_of(method)
    assert len({specimen.code for specimen in known}) == len(known)
    document = example_document(method.id)[1]
    for void in (specimen for specimen in known if specimen.severity == "void"):
        first = document["specimens"][0]
        seen = [*first.get("observations", []), void.code]
        changed = [first | {"observations": seen}, *document["specimens"][1:]]
        specimens = analyse(read_document({**document, "specimens": changed})).as_json()
        assert specimens["specimens"][0]["valid"] is False, void.code
    assert known[-1].code == "set-aside"


@pytest.mark.parametrize("method", METHODS, ids=lambda method: method.id)
def test_what_a_method_says_of_owners_is_a_parameter_of_it(method: Method) -> None:
    fields = set(method.parameters.model_fields)
    for kind in method.parameters.__mro__:
        for name in (*vars(kind).get("set_up", ()), *vars(kind).get("laboratory", ())):
            assert name in fields or not kind.__module__.startswith("endurant"), name
    assert owner_of(method.parameters, "rounding") == "laboratory"
    assert owner_of(method.parameters, "specimens_wanted") == "requested"


def test_pendulum_interval_and_dart_are_settled_at_the_bench() -> None:
    for method, name in (
        ("iso-180", "pendulum_j"),
        ("iso-180", "friction_j"),
        ("iso-1133-1-a", "cut_interval_s"),
        ("iso-7765-1", "start_g"),
        ("iso-7765-1", "dart"),
        ("iso-13938-1", "diaphragm"),
        ("iso-527", "load_cell_n"),
    ):
        assert owner_of(find_method(method).parameters, name) == "set-up"


def test_digits_of_the_laboratory_go_before_those_of_the_method() -> None:
    document = example_document("iso-535")[1]
    usual = analyse(read_document(document)).as_json()["summary"][0]
    own = {**document["parameters"], "reported_to": {"absorption": {"decimals": 3}}}
    answer = analyse(read_document({**document, "parameters": own})).as_json()["summary"][0]
    assert answer["mean"] == usual["mean"]
    assert len(answer["reported"].split(".")[1]) == 3
    for odd in ({"step": "0"}, {}, {"decimals": 1, "step": "1"}):
        with pytest.raises(Invalid):
            read_document({**document, "parameters": own | {"reported_to": {"absorption": odd}}})


@pytest.mark.parametrize(
    ("force", "extension", "reported"),
    [
        (99.4, 10.0, ("99", "5.0")),
        (100.0, 15.99, ("100", "8.0")),
        (994.0, 100.0, ("990", "50.0")),
        (1049.0, 101.0, ("1000", "50")),
        (99.6, 15.9, ("100", "8.0")),
        (50.0, 15.7, ("50", "7.8")),
    ],
)
def test_fabric_tension_reports_by_the_band_of_the_unrounded_mean(
    force: float, extension: float, reported: tuple[str, str]
) -> None:
    trace = {"extension_mm": [0.0, extension, extension + 1], "force_n": [0.0, force, 0.0]}
    rows = computed("iso-13934-1", {"trace": trace, "direction": "warp"})["summary"]
    assert tuple(row["reported"] for row in rows) == reported


def test_a_step_that_is_a_number_shows_the_decimals_it_needs() -> None:
    def text(**request: Any) -> str:
        answer: str = judge_document({"kind": "rounding", **request})["text"]
        return answer

    assert text(value=14.0, step=10) == "10"
    assert text(value=14.0, step=10.0) == "10"
    assert text(value=3.1, step=0.5) == "3.0"
    assert text(value="3.1", step="0.50") == "3.00"


def test_without_an_extensometer_strain_lies_over_the_grip_separation_and_is_flagged() -> None:
    bar = {
        "dimensions": {"width_mm": [10.0], "thickness_mm": [4.0]},
        "trace": {"extension_mm": [0.0, 1.0, 2.0, 2.1], "force_n": [0.0, 500.0, 1000.0, 0.0]},
    }
    answer = computed("iso-527", bar, gauge_length_mm=50.0, grip_separation_mm=100.0)
    first = answer["specimens"][0]
    assert first["values"]["strain_at_strength"]["value"] == pytest.approx(2)
    assert "no-extensometer" in codes(first)
    film = computed("astm-d882", bar, gauge_length_mm=50.0, grip_separation_mm=100.0)
    assert "no-extensometer" not in codes(film["specimens"][0])


def test_a_seam_is_measured_or_estimated_and_a_broken_one_has_no_opening() -> None:
    measured = computed("iso-13936-2", {"seam_opening_mm": [2.5, 3.0]})["specimens"][0]
    assert measured["values"]["opening_at_load"]["value"] == 3.0
    short = {"extension_mm": [0.0, 10.0], "force_n": [0.0, 90.0]}
    broke = computed("iso-13936-2", {"seam_opening_mm": [2.5], "trace_sewn": short})["specimens"][0]
    assert broke["values"]["opening_at_load"]["value"] is None
    assert codes(broke) == ["broke-before-load"]
    alone = computed("iso-13936-2", {"trace_sewn": short})["specimens"][0]
    assert codes(alone) == ["broke-before-load"]
    held = {"extension_mm": [0.0, 10.0], "force_n": [0.0, 181.0]}
    with pytest.raises(Invalid, match="reading.opening-missing"):
        computed("iso-13936-2", {"trace_sewn": held})


def test_the_pendulums_are_those_of_the_frame() -> None:
    izod = find_method("iso-180").parameters(pendulum_j=1.0, friction_j=0.0)
    charpy = find_method("iso-179-1").parameters(pendulum_j=1.0, friction_j=0.0)
    assert izod.pendulums_j == [1, 2.75, 5.5, 11, 22]
    assert charpy.pendulums_j == [0.5, 1, 2, 4, 5, 7.5, 15, 25, 50]


@pytest.mark.parametrize("pressure", [8.0, 10.0, 12.5])
def test_a_rubbing_table_has_two_pressures(pressure: float) -> None:
    document = example_document("iso-12947-2")[1]
    changed = {**document, "parameters": document["parameters"] | {"pressure_kpa": pressure}}
    with pytest.raises(Invalid, match="abrasion.pressure"):
        read_document(changed)


def test_a_charge_is_held_against_the_flow() -> None:
    document = example_document("iso-1133-1-a")[1]
    charged = [document["specimens"][0] | {"charge_g": 9.0}, *document["specimens"][1:]]
    as_json = analyse(read_document({**document, "specimens": charged})).as_json()
    assert "charge-not-for-this-flow" in codes(as_json["specimens"][0])
    assert "charge-not-for-this-flow" not in codes(as_json["specimens"][1])
    assert any(
        "charge for this flow" in line["says"] for line in as_json["specimens"][1]["working"]
    )


def test_every_gap_of_a_log_is_listed() -> None:
    answer = condition_document(
        {
            "atmosphere": "textile-20-65",
            "log": [["2026-03-02T09:00:00Z", 20, 65], ["2026-03-02T10:00:00Z", 25, 65]],
            "hung_at": "2026-03-02T08:00:00Z",
            "now": "2026-03-02T11:00:00Z",
        }
    )
    assert [gap["minutes"] for gap in answer["gaps"]] == [60, 60, 60]
    assert answer["minutes_unproven"] == 120
    assert answer["minutes_outside"] == 60


@pytest.mark.parametrize(
    ("field", "number", "fine"),
    [
        ("width_mm", 7e-217, False),
        ("width_mm", 0.05, True),
        ("x_mm", 1e-12, True),
        ("temperature_c", -300.0, False),
        ("temperature_c", 1e-9, True),
        ("force_n", 1e9, False),
        ("force_n", float("nan"), False),
        ("power", 1e-31, False),
        ("power", 0.0, True),
    ],
)
def test_a_number_is_bounded_by_the_unit_of_its_name(field: str, number: float, fine: bool) -> None:
    assert (out_of_range(field, number) is None) is fine


def test_no_cell_is_a_formula() -> None:
    text = csv_text(["=a"], [["=1+1", "-3.5", "+2e3", "@x", "-x", "plain"]])
    assert text == "'=a\n'=1+1,-3.5,+2e3,'@x,'-x,plain\n"
