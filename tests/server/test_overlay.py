"""What is drawn over a picture: faults of meshes, where they are and fainter behind something."""

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.surroundings import Ground
from server.host.overlay import FAULT, HIDDEN_FAULT, Overlay
from server.protocol.panes import PaneState
from tests.core.shapes import no_files

SIDE = 100
SQUARE = Mesh(
    np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32),
    np.array([[0, 1, 2], [0, 2, 3]], np.uint32),
    np.tile(np.array([[0, 0, 1]], np.float32), (4, 1)), None, None,
)  # fmt: skip
STATE = PaneState(pane=0, serial=0, width=SIDE, height=SIDE, fault="open")
ACROSS = Camera(position=(0, 0, 4), target=(0, 0, 0), projection="orthographic", focal_length=36, f_number=None)
"""4 m wide: the square takes the middle half."""


@pytest.fixture
def drawn():
    engines = []

    def draw(*parts, state=STATE, camera=ACROSS):
        engine = Engine(1)
        engines.append(engine)
        asset = ImportedAsset("Square", "none", [SQUARE])
        named = {f"p{i}": Part(name=f"P{i}", mesh=0, material="m", **fields) for i, fields in enumerate(parts)}
        scene = Scene(parts=named, materials={"m": Material(name="M")}, camera=camera, ground=Ground(enabled=False))
        engine.open(scene, no_files, asset)
        film = Film(SIDE, SIDE)
        assert engine.trace(film, 4)
        return Overlay(engine).draw(state, film, camera)

    yield draw
    for engine in engines:
        engine.close()


def test_open_edges_are_drawn_where_they_are(drawn):
    picture = drawn({})
    rows, columns = np.nonzero(picture[..., 3])
    assert (picture[rows, columns, :3] == FAULT).all() and (picture[rows, columns, 3] == 255).all()
    on_rim = (np.isin(rows, (24, 25, 74, 75)) | np.isin(columns, (24, 25, 74, 75))).all()
    assert on_rim and 195 <= len(rows) <= 205, "a line a pixel wide round the square, and none across it"


def test_edges_behind_something_are_faint_and_what_is_hidden_has_none(drawn):
    behind = {"offset": (0.0, 0.0, -1.0), "size": 0.5}
    alphas, counts = np.unique(drawn({}, behind)[..., 3], return_counts=True)
    assert alphas.tolist() == [0, int(255 * HIDDEN_FAULT), 255]
    assert counts[1] == pytest.approx(100, abs=4) and counts[2] == pytest.approx(200, abs=4)
    assert drawn({}, behind | {"visible": False})[..., 3].min() == 0
    assert len(np.unique(drawn({}, behind | {"visible": False})[..., 3])) == 2


def test_what_stands_behind_the_camera_or_was_not_asked_for_is_not_drawn(drawn):
    near = ACROSS.model_copy(update={"projection": "perspective"})
    assert not drawn({"offset": (0.0, 0.0, 9.0)}, camera=near).any()
    assert not drawn({}, state=STATE.model_copy(update={"fault": "crowded"})).any()
    assert not drawn({}, state=STATE.model_copy(update={"fault": None})).any()
