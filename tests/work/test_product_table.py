"""The table of products as a clerk keeps it: how it is read, and what is refused by its cell."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest

from endurant.core.conditioning.chains import Stage
from endurant.core.methods import all_methods
from endurant.core.refusals import Invalid
from endurant.work.facts.specifications import differences_between
from endurant.work.use_cases.products.product_table import read_products
from endurant.work.use_cases.products.table_columns import (
    COLUMNS,
    parameter_headings,
    table_of_products,
)
from endurant.work.use_cases.products.table_stages import stages_from, stages_text

ROW = {
    "client": "Quay Awnings",
    "product": "Harbour cloth",
    "revision": "1",
    "material": "woven, 240 g/m²",
    "form": "sheet",
    "method": "iso-13937-2",
    "number of specimens": "4",
    "property": "tear_force",
    "direction": "warp",
    "statistic": "mean",
    "rule": "at least",
    "limit": "25.0",
    "unit": "N",
}
KEY = ("Quay Awnings", "Harbour cloth")
CRITERION = {"on": "mean", "op": ">=", "limit": "25.0"}


def lines(*rows: dict[str, str], delimiter: str = ";") -> str:
    """Rows as a file that parts its cells by semicolons."""
    columns = [*COLUMNS, *sorted({name for row in rows for name in row} - {*COLUMNS})]
    out = io.StringIO()
    writer = csv.DictWriter(out, columns, delimiter=delimiter, restval="", lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def only(text: str | bytes) -> dict[str, Any]:
    table = read_products(text if isinstance(text, bytes) else text.encode())
    assert [message.text for message in table.refusals] == []
    return table.products[KEY].specification


def product(own: dict[str, Any]) -> dict[str, Any]:
    return {"client": KEY[0], "name": KEY[1], "revision": 3, "specification": own}


def criterion(specification: dict[str, Any]) -> dict[str, Any]:
    kept = specification["tests"][0]["limits"][0]["criterion"]
    return {name: part for name, part in kept.items() if part is not None}


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_a_table_is_read_in_every_usual_encoding(encoding: str) -> None:
    read = only(lines(ROW).encode(encoding))
    assert read["material"] == "woven, 240 g/m²"
    assert criterion(read) == CRITERION


@pytest.mark.parametrize(
    "changes",
    [
        {"limit": "25,0"},
        {"method": "ISO 13937-2"},
        {"method": " iso-13937-2 ", "client": " Quay Awnings "},
        {"statistic": "", "rule": ""},
        {"unit": ""},
        {"rule": ">="},
    ],
)
def test_what_people_write_otherwise_is_read_the_same(changes: dict[str, str]) -> None:
    read = only(lines(ROW | changes))
    assert read["tests"][0]["method"] == "iso-13937-2"
    assert read["tests"][0]["parameters"] == {"specimens_wanted": 4}
    assert criterion(read) == CRITERION


def test_a_title_above_the_header_and_blank_rows_are_passed_over() -> None:
    header, row = lines(ROW).splitlines()
    text = f"Products of 2026;;\n\n{header.upper()}\n;;;\n{row}\n;;\n"
    assert criterion(only(text)) == CRITERION


def test_rows_of_one_test_are_one_test_with_several_limits() -> None:
    weft = ROW | {"direction": "weft", "limit": "19", "rule": "between", "upper limit": "30"}
    (test,) = only(lines(ROW, weft))["tests"]
    assert [limit["direction"] for limit in test["limits"]] == ["warp", "weft"]
    assert test["limits"][1]["criterion"]["high"] == "30"


@pytest.mark.parametrize(
    ("changes", "cell", "code"),
    [
        ({"material": ""}, "D2", "products.empty"),
        ({"material": "2026-12-01"}, "D2", "products.material-is-date"),
        ({"material": "1.12.2026"}, "D2", "products.material-is-date"),
        ({"limit": "=B2*2"}, "K2", "products.formula"),
        ({"form": "barrel"}, "E2", "products.area-rule"),
        ({"method": "ISO 0"}, "F2", "products.method-unknown"),
        ({"parameters": "four"}, "W2", "products.parameters-form"),
        ({"parameters": "gloss: 4"}, "W2", "field.unknown"),
        ({"number of specimens": "few"}, "V2", "field.whole-number-expected"),
        ({"grip separation (mm)": "100"}, "V2", "field.unknown"),
        ({"parameters": "specimens_wanted: 4"}, "V2", "products.parameter-doubled"),
        ({"property": "gloss"}, "G2", "limit.property-unknown"),
        ({"direction": "up"}, "H2", "limit.direction-unknown"),
        ({"statistic": "mood"}, "I2", "products.area-rule"),
        ({"rule": "about"}, "J2", "products.area-rule"),
        ({"limit": "many"}, "K2", "limit.not-a-number"),
        ({"unit": "lbf"}, "M2", "products.unit-differs"),
        ({"revision": "two"}, "C2", "products.revision-not-a-number"),
        ({"comparison": "by-mood"}, "R2", "products.area-rule"),
        ({"number without failure": "some"}, "O2", "products.not-a-number"),
        ({"guard budget": "{"}, "Q2", "products.budget-unreadable"),
        ({"specimen state": "soggy"}, "T2", "products.area-rule"),
        ({"conditioning": "a day or so"}, "U2", "products.stage-form"),
        ({"conditioning": "moon 30 min"}, "U2", "conditioning.atmosphere-unknown"),
        ({"conditioning": "chamber 0 min"}, "U2", "field.too-low"),
    ],
)
def test_what_cannot_be_read_is_refused_by_its_cell(
    changes: dict[str, str], cell: str, code: str
) -> None:
    table = read_products(lines(ROW | changes).encode())
    (refusal,) = table.refusals
    assert refusal.code == code
    assert refusal.text.startswith(f"{cell}, ")
    assert table.products == {} or table.products[KEY].specification["tests"] == []


def test_every_refusal_is_listed_and_the_other_rows_are_read() -> None:
    rows = (ROW, ROW | {"direction": "weft", "limit": "x"}, ROW | {"material": ""})
    table = read_products(lines(*rows).encode())
    assert [message.text[:2] for message in table.refusals] == ["K3", "D4"]
    assert len(table.products[KEY].specification["tests"][0]["limits"]) == 1


def test_rows_that_disagree_and_a_limit_that_stands_twice_are_refused() -> None:
    other = ROW | {"direction": "weft", "material": "knitted"}
    (refusal,) = read_products(lines(ROW, other).encode()).refusals
    assert (refusal.code, refusal.text[:2]) == ("products.rows-disagree", "D3")
    assert "D2" in refusal.text
    (refusal,) = read_products(lines(ROW, ROW | {"limit": "26"}).encode()).refusals
    assert (refusal.code, refusal.text[:2]) == ("products.limit-doubled", "G3")


def test_a_number_with_three_digits_after_a_comma_is_refused_where_commas_part_cells() -> None:
    text = lines(ROW | {"material": "woven"}, delimiter=",")
    (refusal,) = read_products(text.replace("25.0", '"1,000"').encode()).refusals
    assert refusal.code == "products.number-ambiguous"
    assert criterion(only(text.replace("25.0", '"25,0"')))["limit"] == "25.0"


def test_a_table_without_its_header_names_the_column_that_is_missing() -> None:
    text = lines(ROW).replace("material", "cloth")
    with pytest.raises(Invalid, match="products.column-missing") as refused:
        read_products(text.encode())
    assert "no column material" in str(refused.value.message)


def test_a_table_that_is_written_is_read_the_same() -> None:
    rows = (ROW, ROW | {"direction": "weft", "rule": "between", "upper limit": "30"})
    own = only(lines(*(row | {"comparison": "unrounded"} for row in rows)))
    again = read_products(table_of_products([product(own)]).csv().encode())
    assert again.refusals == []
    assert again.products[KEY].revision == 3
    assert again.products[KEY].specification == own


def test_a_parameter_has_a_column_that_is_headed_by_its_words_and_unit() -> None:
    table = table_of_products([product(only(lines(ROW | {"gauge length (mm)": "100"})))])
    assert [*table.header][-2:] == ["gauge length (mm)", "number of specimens"]
    assert [*next(iter(table.rows))][-2:] == [100, 4]


OWN_CONDITIONING = "chamber 30 min, next within 15 min (agreed); textile-20-65 1440 min"


def test_conditioning_of_its_own_is_read_as_it_is_written() -> None:
    own = only(lines(ROW | {"conditioning": OWN_CONDITIONING, "specimen state": "wet"}))
    (test,) = own["tests"]
    assert test["state"] == "wet"
    assert [stage["least_minutes"] for stage in test["stages"]] == [30.0, 1440.0]
    assert test["stages"][0]["most_wait_minutes"] == 15.0
    assert test["stages"][0]["why"] == "agreed"
    table = table_of_products([product(own)])
    assert OWN_CONDITIONING in table.csv()
    assert only(table.csv().encode()) == own
    assert only(lines(ROW | {"conditioning": "none"}))["tests"][0]["stages"] == []
    assert "stages" not in only(lines(ROW))["tests"][0]


@pytest.mark.parametrize("why", ["", "agreed; see order", "by (our) rule; twice", "a, b"])
def test_a_cell_of_stages_holds_any_reason_and_every_digit(why: str) -> None:
    stages = [Stage("chamber", 1234.5678, 0.125, why), Stage("textile-20-65", 1440.0, None, why)]
    assert stages_from(stages_text(stages)) == stages


@pytest.mark.parametrize("cell", ["true", "TRUE"])
def test_yes_is_read_as_a_spreadsheet_writes_it(cell: str) -> None:
    row = ROW | {"method": "astm-d882", "property": "", "direction": "", "limit": "", "unit": ""}
    read = only(lines(row | {"toe compensation": cell}))
    assert read["tests"][0]["parameters"]["toe_compensation"] is True


def test_rows_that_are_conditioned_differently_are_two_tests() -> None:
    other = ROW | {"direction": "weft", "conditioning": OWN_CONDITIONING}
    assert len(only(lines(ROW, other))["tests"]) == 2


def test_no_two_parameters_share_a_heading() -> None:
    names = {name for method in all_methods().values() for name in method.parameters.model_fields}
    assert sorted(parameter_headings().values()) == sorted(names)


def test_the_one_column_of_earlier_tables_is_read_the_same() -> None:
    older = {name: cell for name, cell in ROW.items() if name != "number of specimens"}
    assert only(lines(older | {"parameters": "specimens_wanted: 4"})) == only(lines(ROW))


def test_differences_name_what_changed_what_came_and_what_went() -> None:
    before = only(lines(ROW, ROW | {"direction": "weft"}))
    changes = {"limit": "28", "material": "knitted", "number of specimens": "6"}
    after = only(lines(ROW | changes))
    wording = differences_between(before, after)
    assert "Trouser tear of woven fabric, number of specimens: 4 becomes 6" in wording
    assert "material: woven, 240 g/m² becomes knitted" in wording
    assert any(line.endswith("mean ≥ 25.0\u00a0N becomes mean ≥ 28\u00a0N") for line in wording)
    assert any(line.endswith("weft: removed") for line in wording)
    assert len(wording) == 4
    assert differences_between(before, before) == []
    assert all(": added, " in line for line in differences_between(None, after))
