"""An asset that is not ours: many materials, many parts."""

import numpy as np
import pytest
from playwright.sync_api import expect

from demo.glb import GlbWriter
from demo.shapes import from_grid
from tests.browser.picture import bring_in, go, wait_for_samples

MATERIALS, PARTS = 30, 300


def tiles(path):
    """A floor of small tiles of many colours."""
    writer = GlbWriter("velvet-lantern-tests")
    colors = np.random.default_rng(1).uniform(0.1, 0.8, (MATERIALS, 3))
    materials = [
        writer.add_material(
            {"name": f"Glaze {n}", "pbrMetallicRoughness": {"baseColorFactor": [*map(float, color), 1.0]}}
        )
        for n, color in enumerate(colors)
    ]
    uvs = np.stack(np.meshgrid([0.0, 1.0], [0.0, 1.0], indexing="ij"), -1)
    for number in range(PARTS):
        points = np.zeros((2, 2, 3))
        points[..., 0], points[..., 2] = number % 20 + 0.9 * uvs[..., 1], number // 20 + 0.9 * uvs[..., 0]
        writer.add_part(f"Tile {number}", from_grid(points, uvs), materials[number % MATERIALS])
    writer.write(path)
    return path


@pytest.fixture
def floor(page, tmp_path):
    bring_in(page, tiles(tmp_path / "floor.glb"))
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    return page


@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (900, 700)])
def test_shelves_scroll_inside_themselves(floor, size):
    page = floor
    page.set_viewport_size({"width": size[0], "height": size[1]})
    wait_for_samples(page, 1)
    for stop in ("Asset", "Materials", "Light", "Camera", "Print"):
        go(page, stop)
        found = page.evaluate(
            """() => { const box = document.querySelector('[data-testid=picture]').getBoundingClientRect();
                       return [document.documentElement.scrollWidth, document.documentElement.scrollHeight,
                               box.left, box.right, box.top, box.bottom] }"""
        )
        assert found[:2] == list(size), f"the page is as large as the window at {stop}"
        assert 0 <= found[2] < found[3] <= size[0] and 0 <= found[4] < found[5] <= size[1], f"the picture at {stop}"
    go(page, "Materials")
    shelf = page.get_by_role("region", name="Materials shelf")
    inside = shelf.get_by_role("list").locator("..")
    assert inside.evaluate("e => e.scrollWidth > e.clientWidth"), "it has more than fits"
    overlaps = page.evaluate(
        """() => { const boxes = [...document.querySelectorAll('header button, header [role=combobox]')]
                       .map(e => e.getBoundingClientRect()).filter(b => b.width);
                   const apart = (a, b) => a.right - 1 <= b.left || b.right - 1 <= a.left
                       || a.bottom - 1 <= b.top || b.bottom - 1 <= a.top;
                   return boxes.some((a, i) => boxes.some((b, j) => i < j && !apart(a, b))) }"""
    )
    assert not overlaps, "nothing in the bar lies over anything else"


def test_a_long_list_draws_what_is_in_sight_and_finds_the_rest(floor):
    page = floor
    parts = page.get_by_role("grid", name="Parts")
    expect(parts).to_have_attribute("aria-rowcount", str(PARTS))
    assert parts.get_by_role("row").count() < 40
    parts.get_by_role("button").first.focus()
    page.keyboard.press("End")
    expect(parts.get_by_role("button", name=f"Tile {PARTS - 1}").first).to_be_focused()
    page.get_by_role("searchbox", name="Find a part").fill("tile 123")
    expect(parts).to_have_attribute("aria-rowcount", "1")
    parts.get_by_role("button", name="Tile 123").first.click()
    go(page, "Materials")
    expect(page.get_by_text("on Tile")).to_be_visible()
    shelf = page.get_by_role("list", name="Materials")
    assert shelf.get_by_role("listitem").count() < MATERIALS
    shelf.get_by_role("button").first.focus()
    page.keyboard.press("End")
    expect(shelf.get_by_role("button", name="Glaze 29")).to_be_focused()


def test_an_import_is_followed_in_the_tray_and_carries_nobody_off(page, tmp_path):
    address = page.url
    page.get_by_label("Asset file").set_input_files(tiles(tmp_path / "floor.glb"))
    page.get_by_role("button", name="Tray").click()
    tray = page.get_by_role("list", name="Jobs")
    expect(tray).to_contain_text("floor.glb")
    expect(tray.get_by_role("link", name="Open")).to_be_visible(timeout=60_000)
    assert page.url == address
    tray.get_by_role("link", name="Open").click()
    expect(page.get_by_role("heading", name="floor")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("button", name="Tray, empty")).to_be_visible()
