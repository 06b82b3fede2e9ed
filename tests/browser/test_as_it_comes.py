"""The demo as it comes, in an application of its own: nobody has touched or removed anything."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Application, Window, sign_in
from tests.browser.picture import go, pixels
from tests.browser.test_light_desk import shelf, wait_until_fine
from tests.browser.test_showings import link_of, picture_of


@pytest.fixture(scope="module")
def fresh(tmp_path_factory):
    """An application whose demo stands in its own light."""
    running = Application(tmp_path_factory.mktemp("fresh") / "data", as_it_comes=True)
    yield running
    running.stop()


def test_the_demo_opens_in_the_evening(browser, fresh):
    """Its conditions stand, and its picture is no flat grey."""
    window = Window(browser, fresh)
    window.open(1)
    go(window.page, "Light")
    shelf(window.page, "Conditions")
    evening = window.page.get_by_role("button", name="Conditions Hotel Evening", exact=True)
    expect(evening).to_have_attribute("aria-pressed", "true", timeout=20_000)
    wait_until_fine(window.page, 4)
    light = pixels(window.page).mean(axis=2)
    assert np.percentile(light, 99) > 180 and np.percentile(light, 2) < 60
    window.context.close()


def test_whoever_made_it_leads_those_who_look(browser, fresh, visitor):
    """The demo's showing of three editions is followed from one to the next."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, device_scale_factor=1)
    owner = context.new_page()
    sign_in(owner, fresh)
    projects = owner.evaluate("async () => (await (await fetch('/api/v1/projects?limit=50')).json()).items")
    editions = next(each["id"] for each in projects if "three editions" in each["name"])
    owner.goto(f"{fresh.url}/#/projects/{editions}")
    go(owner, "Compare")
    expect(owner.get_by_role("group", name="Showing For the hotel")).to_be_visible()
    address = link_of(owner, "For the hotel")

    theirs = visitor()
    theirs.goto(address)
    picture_of(theirs)
    owner.goto(address)
    picture_of(owner)
    expect(owner.get_by_text("one other looks")).to_be_visible()
    owner.get_by_role("button", name="Lead all who look").click()
    owner.get_by_role("button", name="Porcelain & Moss").click()
    chosen = theirs.get_by_role("button", name="Porcelain & Moss")
    expect(chosen).to_have_attribute("aria-pressed", "true")
    assert picture_of(theirs) == picture_of(owner)
    theirs.get_by_role("button", name=re.compile("look by yourself")).click()
    theirs.get_by_role("button", name="Brass & Cognac").click()
    expect(owner.get_by_role("button", name="Porcelain & Moss")).to_have_attribute("aria-pressed", "true")
    theirs.get_by_role("button", name=re.compile("Follow demo")).click()
    expect(chosen).to_have_attribute("aria-pressed", "true")
    context.close()  # whoever leads is gone: what was shown last stays
    expect(theirs.get_by_role("button", name=re.compile("Follow|yourself"))).to_have_count(0)
    expect(chosen).to_have_attribute("aria-pressed", "true")
