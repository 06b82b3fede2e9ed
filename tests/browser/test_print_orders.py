"""An order by hand: lights by sizes as a table, one left out, one cancelled, stopped, gone on with, saved as a zip."""

import zipfile

from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.picture import eventually, expect_saved, go, set_number
from tests.browser.test_accessible import violations

PRINTED_SECONDS = 300
LIGHTS = ("Workbench Morning", "Hotel Evening", "Catalogue White")


def cards(page, state=""):
    return page.locator(f"[data-testid^=print-]{f'[data-state={state}]' if state else ''}")


def test_many_are_ordered_stopped_gone_on_with_and_saved(page):
    page.get_by_role("button", name="Hold the proof").click()
    go(page, "Print")
    set_number(page, "Samples", "2")
    expect_saved(page)
    page.get_by_role("button", name="Order many").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Catalogue")
    dialog.get_by_label("Sizes").fill("wide")
    expect(dialog.get_by_text("Such as 1920x1080")).to_be_visible()
    dialog.get_by_label("Sizes").fill("96x60, 64x40")
    for light in LIGHTS:
        dialog.get_by_role("checkbox", name=light, exact=True).check()
    rows = dialog.get_by_role("table", name="What will be made").get_by_role("row")
    expect(rows).to_have_count(7)
    expect(rows.nth(1)).to_contain_text("001-Workbench-Morning-96x60")
    assert violations(page) == []
    dialog.get_by_role("checkbox", name="Print 006-Catalogue-White-64x40").uncheck()
    expect(dialog).to_contain_text("5 to make, time not known yet")
    dialog.get_by_role("button", name="Order 5").click()
    expect(dialog).to_be_hidden()
    order = page.get_by_role("group", name="Order Catalogue")
    order.get_by_role("button", name="Stop: Catalogue").click()
    expect(order).to_contain_text("stopped")
    order.get_by_role("button", name="Go on: Catalogue").click()
    expect(order).to_contain_text("5 of 5 made", timeout=PRINTED_SECONDS * 1000)
    expect(cards(page, "done")).to_have_count(5)
    with page.expect_download() as saving:
        order.get_by_role("button", name="Save all files: Catalogue").click()
    with zipfile.ZipFile(saving.value.path()) as found:
        names = found.namelist()
        assert len(names) == 10 and "004-Hotel-Evening-64x40.png" in names and found.testzip() is None

    order.get_by_role("button", name="Side by side: Catalogue").click()
    widths = "all => all.map(each => each.naturalWidth)"
    eventually(page, lambda: sorted(dialog.locator("img").evaluate_all(widths)) == [64, 64, 96, 96, 96])
    expect(dialog).to_contain_text("001-Workbench-Morning-96x60")
    page.mouse.move(5, 5)
    expect(page.locator(".MuiTooltip-tooltip")).to_have_count(0)  # half faded, it has no contrast
    assert violations(page) == []
    with page.expect_download() as saving:
        dialog.get_by_role("button", name="Save as PDF").click()
    assert "Catalogue" in PdfReader(saving.value.path()).pages[0].extract_text()
    dialog.get_by_role("button", name="Close").click()
    expect(dialog).to_be_hidden()

    page.get_by_role("button", name="Order many").click()
    dialog.get_by_label("Sizes").fill("96x60, 64x40")
    for light in LIGHTS:
        dialog.get_by_role("checkbox", name=light, exact=True).check()
    expect(dialog).to_contain_text("1 to make, 5 are there already")
    dialog.get_by_role("button", name="Leave it").click()
    order.get_by_role("button", name="Remove: Catalogue").click()
    expect(order).to_have_count(0)
    eventually(page, lambda: cards(page).count() == 5)
