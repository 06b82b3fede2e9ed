"""Every view, looked at by the rules of axe-core (WCAG 2.2 A and AA)."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import ROOT
from tests.browser.picture import BASE, click_picture, go, wait_for_samples

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def violations(page):
    """What axe finds, one line each."""
    page.evaluate(AXE)
    # A separator between two landmarks lies in neither.
    found = page.evaluate(
        "tags => axe.run({ exclude: [['[role=separator]']] }, { runOnly: { type: 'tag', values: tags } })", RULES
    )
    return [
        f"{each['id']}: {node['target']} {node['failureSummary'].splitlines()[1].strip()}"
        for each in found["violations"]
        for node in each["nodes"]
    ]


@pytest.mark.parametrize("stop", ["Asset", "Materials", "Light", "Camera", "Look", "Compare", "Print"])
def test_nothing_stands_in_the_way_at(page, stop):
    wait_for_samples(page, 1)
    click_picture(page, *BASE)
    go(page, stop)
    assert violations(page) == []


def test_nothing_stands_in_the_way_at_the_takes(page):
    wait_for_samples(page, 1)
    go(page, "Compare")
    for count in (1, 2):
        page.keyboard.press("k")
        expect(page.get_by_role("button", name=f"Sheet ({count})")).to_be_visible()
    page.get_by_role("button", name="Sheet (2)").click()
    boxes = page.get_by_role("checkbox", name=re.compile("Choose take"))
    expect(boxes).to_have_count(2)
    page.mouse.move(640, 20)
    assert violations(page) == []
    page.get_by_role("button", name=re.compile("Open take")).first.click()
    expect(page.get_by_role("complementary", name="What is said of it")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Back to the sheet").click()
    for box in boxes.all():
        box.click()
    page.get_by_role("button", name="Compare two").click()
    expect(page.get_by_role("complementary", name="What differs")).to_be_visible()
    assert violations(page) == []


def test_nothing_stands_in_the_way_at_the_projects_and_the_account(page):
    page.get_by_role("button", name="All projects").click()
    expect(page.get_by_role("list", name="Projects")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="demo", exact=True).click()
    expect(page.get_by_role("dialog")).to_be_visible()
    page.wait_for_function("() => getComputedStyle(document.querySelector('.MuiDialog-container')).opacity === '1'")
    assert violations(page) == []


def test_nothing_stands_in_the_way_at_the_sign_in(browser, application):
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(application.url)
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    assert violations(page) == []
    context.close()
