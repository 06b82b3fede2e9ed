"""An asset that is not ours: many materials, many parts."""

import numpy as np
import pytest

from demo.glb import GlbWriter
from demo.shapes import from_grid
from tests.browser.picture import bring_in, go, wait_for_samples
from tests.browser.test_projects import remove_newest_project

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
    yield page
    remove_newest_project(page)


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
    assert shelf.evaluate("e => e.scrollWidth > e.clientWidth"), "it has more than fits"
    overlaps = page.evaluate(
        """() => { const boxes = [...document.querySelectorAll('header button, header [role=combobox]')]
                       .map(e => e.getBoundingClientRect()).filter(b => b.width);
                   const apart = (a, b) => a.right - 1 <= b.left || b.right - 1 <= a.left
                       || a.bottom - 1 <= b.top || b.bottom - 1 <= a.top;
                   return boxes.some((a, i) => boxes.some((b, j) => i < j && !apart(a, b))) }"""
    )
    assert not overlaps, "nothing in the bar lies over anything else"
