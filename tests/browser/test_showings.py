"""A showing by hand: made, opened by somebody without an account, led, commented on, saved as a file, withdrawn."""

import pytest
from playwright.sync_api import expect

from tests.browser.picture import eventually, go
from tests.browser.test_accessible import violations
from tests.browser.test_takes import kept

PREPARED_SECONDS = 300


def make(page, name, *boxes, password=""):
    """Make a showing; its group in the drawer."""
    go(page, "Compare")
    page.get_by_role("button", name="Make a showing").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_label("Password").fill(password)
    dialog.get_by_role("combobox", name="Pictures").click()
    page.get_by_role("option", name="Quick").click()
    for box in boxes:
        dialog.get_by_role("checkbox", name=box).check()
    dialog.get_by_role("button", name="Make it").click()
    expect(dialog).not_to_be_visible()
    return page.get_by_role("group", name=f"Showing {name}")


def more(page, name, action):
    page.get_by_role("button", name=f"More of {name}").click()
    return page.get_by_role("menuitem", name=action)


def link_of(page, name):
    address = more(page, name, "Open its page").get_attribute("href")
    page.keyboard.press("Escape")
    return address


def turn_by_hand(page, across, down):
    """Drag across the picture of a showing, by shares of it."""
    box = page.locator(".stage").bounding_box()
    x, y = box["x"] + 0.5 * box["width"], box["y"] + 0.5 * box["height"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + across * box["width"], y + down * box["height"], steps=6)
    page.mouse.up()


def picture_of(page):
    """The address of the picture that is seen, once it is there."""
    page.wait_for_function("() => document.querySelector('.stage img')?.naturalWidth > 0")
    return page.locator(".stage img").first.get_attribute("src")


def test_somebody_without_an_account_looks_compares_comments_and_chooses(page, application, visitor, tmp_path):
    page.get_by_role("button", name="Hold the proof").click()
    card = make(page, "For Mara", "Workbench Morning", "Catalogue White")
    expect(card).to_contain_text("0 visitors")
    eventually(page, lambda: len(kept(page)) == 2, PREPARED_SECONDS)
    address = link_of(page, "For Mara")

    theirs = visitor()
    theirs.goto(address)
    expect(theirs.get_by_role("heading", name="For Mara")).to_be_visible()
    morning = picture_of(theirs)
    assert violations(theirs) == []
    light = theirs.get_by_role("group", name="Light")
    expect(light.get_by_role("button", name="Workbench Morning")).to_have_attribute("aria-pressed", "true")
    light.get_by_role("button", name="Catalogue White").click()
    assert picture_of(theirs) != morning
    theirs.get_by_role("button", name="Compare with another").click()
    expect(theirs.locator(".stage img")).to_have_count(2)
    box = theirs.locator(".stage").bounding_box()
    theirs.mouse.click(box["x"] + 0.25 * box["width"], box["y"] + 0.5 * box["height"])
    edge = theirs.get_by_role("slider", name="Edge between the two")
    assert abs(float(edge.input_value()) - 0.25) < 0.02, "the edge is moved by hand"
    theirs.get_by_role("button", name="One picture again").click()

    theirs.get_by_label("Your name").fill("Mara")
    theirs.get_by_label("What you think of it").fill("The handle is too dark")
    theirs.get_by_role("button", name="Point at a place").click()
    theirs.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 0.2 * box["height"])
    expect(theirs.locator(".pin.new")).to_be_visible()
    theirs.get_by_role("button", name="Send").click()
    expect(theirs.get_by_text("Sent.")).to_be_visible()
    expect(theirs.get_by_role("region", name="Comments")).to_contain_text("The handle is too dark")
    theirs.get_by_role("button", name="Choose this one").click()
    expect(theirs.get_by_text("You have chosen Catalogue White.")).to_be_visible()

    chosen = next(take for take in kept(page) if take["labels"] == ["chosen"])
    assert chosen["board"] == "For Mara" and chosen["note"] == "Catalogue White"
    assert [(c["author"], c["is_visitor"], c["text"]) for c in chosen["comments"]] == [
        ("Mara", True, "The handle is too dark"),
        ("Mara", True, "Chosen."),
    ]
    assert chosen["comments"][0]["pin"] == pytest.approx([0.5, 0.2], abs=0.02)
    expect(card).to_contain_text("1 visitor")

    with page.expect_download(timeout=60_000) as saving:
        more(page, "For Mara", "Save as one file").click()
    saving.value.save_as(tmp_path / "showing.html")
    alone = visitor()
    alone.goto(f"file://{tmp_path}/showing.html")
    inside = picture_of(alone)
    assert inside.startswith("data:image/jpeg")
    alone.get_by_role("group", name="Light").get_by_role("button", name="Catalogue White").click()
    assert picture_of(alone) != inside
    expect(alone.get_by_role("button", name="Choose this one")).to_have_count(0)

    more(page, "For Mara", "Withdraw the link").click()
    expect(theirs.get_by_role("alert")).to_contain_text("This showing is over")
    expect(card).to_contain_text("withdrawn")


def test_a_visitor_turns_it_freely_and_those_who_are_led_see_it(page, visitor):
    page.get_by_role("button", name="Hold the proof").click()
    make(page, "All around", "Workbench Morning", "turn it freely, in pictures made at once")
    eventually(page, lambda: len(kept(page)) == 1, PREPARED_SECONDS)
    address = link_of(page, "All around")
    theirs = visitor()
    theirs.goto(address)
    picture_of(theirs)
    live = theirs.get_by_test_id("live")
    expect(live).to_have_count(0)
    turn_by_hand(theirs, -0.1, 0.1)
    expect(live).to_be_visible(timeout=120_000)
    wide, high, _ = drawn_by(live)
    assert wide <= 1280 and high <= 1280
    first = drawn_by(live)[2]
    theirs.get_by_role("slider", name="Nearer").focus()
    theirs.keyboard.press("ArrowRight")
    eventually(theirs, lambda: drawn_by(live)[2] > first, 120)
    assert float(theirs.get_by_role("slider", name="Turn").input_value()) == pytest.approx(18, abs=1)
    assert violations(theirs) == []

    page.goto(address)
    page.get_by_role("button", name="Lead all who look").click()
    expect(live).to_have_count(0)
    turn_by_hand(page, 0.2, 0)
    expect(page.get_by_test_id("live")).to_be_visible(timeout=120_000)
    expect(live).to_be_visible(timeout=120_000)
    assert float(theirs.get_by_role("slider", name="Turn").input_value()) == pytest.approx(-36, abs=1)
    page.get_by_role("button", name="Back to the view").click()
    expect(live).to_have_count(0)


def drawn_by(canvas):
    """(width, height, serial) of a live picture."""
    return tuple(
        canvas.evaluate("c => [c.width, c.height, Number(c.dataset.serial)]"),
    )
