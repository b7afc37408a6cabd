"""The office through its pages: a product is drafted, approved by a second person and received."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.conftest import Site


def test_a_product_is_drafted_approved_and_received(site: Site) -> None:
    ines, maren = site.page("ines"), site.page("maren")
    ines.goto(f"{site.address}/products?new")
    ines.get_by_label("Client", exact=True).fill("Quay Awnings")
    ines.get_by_label("Product", exact=True).fill("Harbour cloth")
    ines.get_by_label("Material").fill("woven, 285 g/m²")
    ines.get_by_label("Test, by name or number").fill("13937-2")
    ines.get_by_role("option", name="Trouser tear of woven fabric").click()
    test = ines.get_by_role("region", name="Trouser tear of woven fabric")
    test.get_by_label("mean at least", exact=False).fill("25,0")
    test.get_by_label("guarded by the expanded uncertainty").check()
    ines.get_by_role("button", name="Save draft").click()
    expect(ines.get_by_text("mean ≥ 25.0\u00a0N, guarded")).to_be_visible()
    expect(ines.get_by_text("A draft counts once a reviewer")).to_be_visible()
    maren.goto(f"{site.address}/products")
    maren.get_by_role("button", name="Approve revision 1").click()
    maren.get_by_role("button", name="Approve", exact=True).click()
    expect(maren.get_by_text("in force since")).to_be_visible()
    ines.goto(f"{site.address}/jobs/new")
    ines.get_by_role("combobox", name="Product specification").click()
    ines.get_by_role("option", name="Harbour cloth, Quay Awnings, revision 1").click()
    expect(ines.get_by_label("Product", exact=True)).to_have_value("Harbour cloth")
    ines.get_by_label("Lot").fill("L-1")
    ines.get_by_label("Across the roll").fill("1480")
    ines.get_by_label("Along the roll").fill("1200")
    ines.get_by_label("Due").fill("24 Dec 2099, 16:00")
    ines.get_by_role("button", name="Receive sample").click()
    expect(ines.get_by_role("heading", name="Sheet")).to_be_visible()
