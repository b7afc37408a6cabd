"""The texts of the method pages: one file a page, every one of them used and whole."""

from __future__ import annotations

import tomllib
from importlib.resources import files

import pytest

from endurant.core.methods import all_methods, find_method
from endurant.core.methods.differences import differences_of
from endurant.core.methods.guide_texts import FIELDS, guide_texts
from endurant.scaffold.guide_texts import write_texts
from endurant.work.views.guides import method_page

TEXTS = files("endurant.core.methods").joinpath("texts")
PAGES = sorted(
    path.name.removesuffix(".toml") for path in TEXTS.iterdir() if path.name.endswith(".toml")
)


@pytest.mark.parametrize("method_id", list(all_methods()))
def test_a_guide_is_written_as_its_file_and_read_again(method_id: str) -> None:
    guide = find_method(method_id).guide
    read = tomllib.loads(write_texts(guide))
    for field in FIELDS:
        kept = getattr(guide, field)
        assert read.get(field, "") == (list(kept) if isinstance(kept, tuple) else kept), field


def test_every_file_of_texts_is_the_page_of_a_method() -> None:
    shown = {find_method(method_id).guide.purpose for method_id in all_methods()}
    bases = {"vibration-base"}
    for name in PAGES:
        if name != "differences" and name not in bases:
            assert guide_texts(name)["purpose"] in shown, name


def test_a_field_that_no_guide_has_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("endurant.core.methods.guide_texts.FIELDS", ("purpose",))
    guide_texts.cache_clear()
    with pytest.raises(ValueError, match="iso-3037"):
        guide_texts("iso-3037")
    guide_texts.cache_clear()
    with pytest.raises(FileNotFoundError):
        guide_texts("no-such-page")


def test_a_difference_stands_on_both_pages() -> None:
    for method_id in all_methods():
        for each in differences_of(method_id):
            back = [other for other in differences_of(each.method) if other.method == method_id]
            assert [other.text for other in back] == [each.text]
            assert each.text.count(". ") <= 1, "two sentences at most"


def test_the_page_begins_with_what_a_technician_looks_for() -> None:
    page = method_page("iso-13937-2")
    card = {line.title: line.value for line in page.summary}
    assert card["Specimen"] == "200 x 50 mm"
    assert card["Specimens"] == "5 in each direction: warp, weft"
    assert (card["Speed"], card["Gauge length"]) == ("100 mm/min", "100 mm")
    assert card["Conditioning"].endswith("at least 24 h")
    assert card["Result"] == "tear force, N"
    assert [(each.method, each.title) for each in page.differs] == [
        ("astm-d2261", "Tongue tear (single rip)")
    ]


def test_the_card_leaves_out_what_a_method_does_not_have() -> None:
    card = {line.title: line.value for line in method_page("iso-1133-1-a").summary}
    assert "Speed" not in card
    assert (card["Specimen"], card["Conditioning"]) == ("not cut", "none")
    requested = {line.title: line.value for line in method_page("iso-527").summary}
    assert requested["Speed"] == "as requested"
