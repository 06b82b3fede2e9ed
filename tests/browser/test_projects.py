"""The list of projects, the account, and what outlives a window."""

import os
import re
import subprocess
import sys

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import ROOT, sign_in
from tests.browser.picture import (
    revision,
    scene_of,
    wait_for_revision,
    wait_for_samples,
)
from tests.core.gltf_files import glb


def test_the_list_of_projects_shows_their_pictures(page, application):
    project = scene_of(page)["asset"]["name"]
    wait_for_samples(page, 2)
    page.goto(f"{application.url}/#/")
    card = page.get_by_role("list", name="Projects").get_by_role("listitem").first
    # It is made when the project is left; on a slow machine of a coarse picture.
    page.wait_for_function(
        "() => [...document.images].some(i => i.src.includes('/cover') && i.complete && i.naturalWidth > 0)",
        timeout=60_000,
    )
    expect(card.get_by_role("button", name="Open")).to_be_visible()
    card.get_by_role("button", name="Open").click()
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    assert scene_of(page)["asset"]["name"] == project


@pytest.mark.console("status of 422")
def test_the_account_says_where_else_somebody_is_signed_in(browser, page, application):
    elsewhere = browser.new_context()
    other = elsewhere.new_page()
    sign_in(other, application)
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name="demo", exact=True).click()
    expect(page.get_by_text(re.compile(r"Signed in at \d+ other place"))).to_be_visible()
    page.get_by_label("Old password").fill("not this one")
    page.get_by_label("New password").fill("long-enough-now")
    page.get_by_role("button", name="Change the password").click()
    expect(page.get_by_text("The old password is not right.")).to_be_visible()
    page.get_by_role("button", name="Sign out there").click()
    expect(page.get_by_text("Signed in here only.")).to_be_visible()
    # Whatever it asks next leads it to where one signs in.
    signed_out = other.get_by_test_id("veil").get_by_text("You are signed out")
    expect(signed_out.or_(other.get_by_role("button", name="Sign in"))).to_be_visible()
    elsewhere.close()


def test_a_project_is_renamed_copied_put_away_and_removed(page):
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name="More for Wick No. 4 launch pictures").click()
    page.get_by_role("menuitem", name="Copy").click()
    copy = page.get_by_role("button", name="Open Wick No. 4 launch pictures copy")
    expect(copy).to_be_visible()
    page.get_by_role("button", name="More for Wick No. 4 launch pictures copy").click()
    page.get_by_role("menuitem", name="Rename").click()
    field = page.get_by_role("textbox", name="Project name")
    field.fill("never mind")
    field.press("Escape")
    expect(copy).to_be_visible()
    page.get_by_role("button", name="More for Wick No. 4 launch pictures copy").click()
    page.get_by_role("menuitem", name="Rename").click()
    field.fill("Wick No. 5")
    field.press("Enter")
    page.get_by_role("button", name="More for Wick No. 5").click()
    page.get_by_role("menuitem", name="Put away").click()
    expect(page.get_by_role("button", name="Open Wick No. 5")).to_have_count(0)
    page.get_by_role("button", name="Show 1 put away").click()
    page.get_by_role("button", name="More for Wick No. 5").click()
    page.once("dialog", lambda dialog: dialog.accept())
    page.get_by_role("menuitem", name="Remove").click()
    expect(page.get_by_role("button", name="Open Wick No. 5")).to_have_count(0)


def test_closing_the_browser_loses_nothing(browser, page, application):
    at = revision(page)
    page.get_by_role("button", name="Hide Base").click()
    wait_for_revision(page, at + 1)
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    other = context.new_page()
    sign_in(other, application)
    expect(other.get_by_role("button", name="Show Base")).to_be_visible()
    other.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Hide Base")).to_be_visible()
    context.close()


def test_a_project_goes_out_as_a_package_and_comes_back(page, tmp_path):
    at = revision(page)
    page.get_by_role("button", name="Hide Base").click()
    wait_for_revision(page, at + 1)
    before = scene_of(page)
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name="More for test_a_project").click()
    with page.expect_download(timeout=120_000) as saving:
        page.get_by_role("menuitem", name="Save as a package").click()
    assert saving.value.suggested_filename == "test_a_project_goes_out_as_a_package_and_comes_back.project.zip"
    saving.value.save_as(tmp_path / "saved.project.zip")
    page.get_by_label("Asset file").set_input_files(tmp_path / "saved.project.zip")
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    assert scene_of(page) == before
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Hide Base")).to_be_visible()


def test_new_projects_begin_with_the_set_up_of_another(page, tmp_path):
    before = scene_of(page)
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name="More for test_new_projects").click()
    page.get_by_role("menuitem", name="Begin new projects like this").click()
    field = page.get_by_role("combobox", name="New projects begin with")
    expect(field).to_have_text("test_new_projects_begin_with_the_set_up_of_another")
    page.get_by_role("button", name="Make it the default").click()
    expect(field).to_have_text("test_new_projects_begin_with_the_set_up_of_another (default)")
    (tmp_path / "square.glb").write_bytes(glb())
    page.get_by_label("Asset file").set_input_files(tmp_path / "square.glb")
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    begun = scene_of(page)
    assert begun["asset"]["name"] == "square"
    for same in ("environment", "look", "backdrop", "print"):
        assert begun[same] == before[same]
    assert begun["lights"].keys() == before["lights"].keys()
    page.get_by_role("button", name="All projects").click()
    page.once("dialog", lambda dialog: dialog.accept())
    page.get_by_role("button", name="Remove it").click()
    expect(field).to_have_count(0)


def test_somebody_is_invited_and_makes_an_account(browser, application):
    variables = {"DJANGO_SUPERUSER_PASSWORD": "turned-brass-9", "LANTERN_DATA": str(application.data)}
    command = [sys.executable, "manage.py", "createsuperuser", "--noinput", "--username", "ilse", "--email", ""]
    subprocess.run(command, cwd=ROOT, env=os.environ | variables, check=True, capture_output=True)
    inviter, guest = browser.new_context(), browser.new_context()
    host, visitor = inviter.new_page(), guest.new_page()
    host.goto(application.url)
    host.get_by_label("Name").fill("ilse")
    host.get_by_label("Password").fill("turned-brass-9")
    host.get_by_role("button", name="Sign in").click()
    # A superuser sees the projects of all, and the newest one opens.
    host.get_by_role("button", name="All projects").click()
    host.get_by_role("button", name="ilse", exact=True).click()
    host.get_by_label("Whom it is for").fill("Mara, textures")
    host.get_by_role("button", name="Make a link").click()
    link = host.get_by_label("Its link").input_value()
    expect(host.get_by_text("Mara, textures")).to_be_visible()

    visitor.goto(link)
    expect(visitor.get_by_text("You are invited.")).to_be_visible()
    visitor.get_by_label("Name").fill("mara")
    visitor.get_by_label("Password").fill("short")
    visitor.get_by_role("button", name="Make my account").click()
    expect(visitor.get_by_text("too short")).to_be_visible()
    visitor.get_by_label("Password").fill("frosted-glass-4")
    visitor.get_by_role("button", name="Make my account").click()
    expect(visitor.get_by_text("There is no project yet.")).to_be_visible()
    visitor.get_by_role("button", name="mara", exact=True).click()
    expect(visitor.get_by_label("Whom it is for")).to_have_count(0)
    visitor.goto(link)
    visitor.reload()
    expect(visitor.get_by_role("button", name="mara", exact=True)).to_be_visible()
    inviter.close()
    guest.close()
