"""An animated asset: its moment and its shutter."""

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.picture import (
    at_moment,
    bring_in,
    go,
    group,
    pixels,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
)
from tests.browser.test_accessible import violations
from tests.core.test_gltf_motion import Animated


def columns(page):
    """How much of each column of the picture the red square covers."""
    shown = pixels(page).astype(float)
    return ((shown[..., 0] - shown[..., 2]) > 40).mean(0)


@pytest.fixture
def moving(page, tmp_path):
    """A page with a project of an animated file."""
    file = Animated().channel(0, "translation", [0, 1], [[0, 2, 3], [3, 2, 3]])
    bring_in(page, file.written(tmp_path))
    expect(page.get_by_role("button", name="Hide Square")).to_be_visible(timeout=60_000)
    return page


def test_an_animated_file_shows_its_moment_and_blurs(moving):
    page = moving
    go(page, "Camera")
    expect(group(page, "Shutter")).to_be_visible()
    wait_for_samples(page, 4)
    early = columns(page)
    set_number(page, "Moment", "0.5")
    page.wait_for_function("() => Number(document.querySelector('canvas[data-revision]').dataset.revision) >= 2")
    wait_for_samples(page, 4)
    later = columns(page)
    place = np.arange(len(early))
    assert np.average(place, weights=later) > np.average(place, weights=early) + 20
    set_number(page, "Closes", "0.4")
    page.wait_for_function("() => Number(document.querySelector('canvas[data-revision]').dataset.revision) >= 3")
    wait_for_samples(page, 4)
    assert scene_of(page)["shutter"] == {"time": 0.5, "opens": 0.0, "closes": 0.4}
    streak = columns(page)
    assert (streak > 0.02).sum() != (later > 0.02).sum()


def test_the_clip_of_a_file_is_played_faster_to_and_fro(moving):
    page = moving
    page.get_by_role("button", name="Unfold the time line").click()
    page.get_by_role("button", name="Add a move").click()
    page.get_by_role("menuitem", name="Its clip, again and again").click()
    stored(page, lambda scene: [(move["first"], move["last"]) for move in scene["motion"]["moves"].values()], [(0, 1)])

    def at(time):
        at_moment(page, time, 2)
        return np.average(np.arange(len(columns(page))), weights=columns(page))

    begin, middle, again = at(0), at(0.6), at(1.0)
    assert middle > begin + 30 and abs(again - begin) < 5, "after a second it begins anew"
    clip = page.get_by_role("group", name="Clip", exact=True)
    clip.get_by_role("group", name="At its end").get_by_role("button", name="To and fro").click()
    set_number(page, "Speed", "0.5")
    stored(
        page, lambda scene: [(move["then"], move["speed"]) for move in scene["motion"]["moves"].values()],
        [("back", 0.5)],
    )  # fmt: skip
    assert abs(at(1.2) - middle) < 6 and abs(at(2.8) - middle) < 6, "there, and back"
    assert violations(page) == []
