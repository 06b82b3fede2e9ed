"""The swatches of a document: which are still to be made, and the one in the making.

In: documents, and what the server knows already. Out: a picture for each material, sent when it is new or has changed.
Called by `host` when every pane shows a whole picture; what asks for a picture makes it give way.
"""

import hashlib
import traceback
from collections.abc import Mapping

import numpy as np

from lantern.assets.textures import Texture
from lantern.engine.swatches import SwatchMaker
from lantern.picture.encode import encode_jpeg
from lantern.scene.document import Material, Scene
from server.host.shown import Send
from server.protocol.host import SwatchMade


def _digest(origin: str, material: Material, materials: Mapping[str, Material]) -> str:
    """Of all that a swatch shows: what lies over it as well."""
    shown = [material, *(materials[layer.material] for layer in material.layers)]
    return hashlib.sha256("".join([origin, *(each.model_dump_json() for each in shown)]).encode()).hexdigest()


class Swatches:
    """The swatches of one project. Not for several threads at once, except `cancel`."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self._maker = SwatchMaker()
        self._scene = Scene()
        self._textures: list[Texture] = []
        self._pictures: Mapping[str, np.ndarray] = {}
        self._wanted: dict[str, str] = {}
        self._made: dict[str, str] = {}
        """Digest of what a swatch shows, by material."""
        self._making: tuple[str, str] | None = None

    def know(self, made: dict[str, str]) -> None:
        """Take over what an earlier host has made."""
        self._made.update(made)

    def take_document(self, scene: Scene, textures: list[Texture], pictures: Mapping[str, np.ndarray]) -> None:
        """Note what the materials are now."""
        before = self._scene.materials if textures is self._textures else {}
        origin = scene.asset.file.sha256 if scene.asset else ""
        self._wanted = {
            key: self._wanted[key]
            if not material.layers and before.get(key) == material
            else _digest(origin, material, scene.materials)
            for key, material in scene.materials.items()
        }
        self._scene, self._textures, self._pictures = scene, textures, pictures

    def _next(self) -> tuple[str, str] | None:
        return next((wish for wish in self._wanted.items() if self._made.get(wish[0]) != wish[1]), None)

    @property
    def is_due(self) -> bool:
        """Whether one is still to be made."""
        return self._next() is not None

    def step(self) -> None:
        """Go on with the next one, and send it when it is done."""
        wish = self._next()
        if wish is None:
            return
        key, digest = wish
        try:
            if self._making != wish:
                material, others = self._scene.materials[key], self._scene.materials
                self._maker.begin(material, self._textures, others, self._pictures)
                self._making = wish
            picture = self._maker.step()
        except Exception:
            # The shelf shows its colour instead; the picture itself must not suffer.
            traceback.print_exc()
            self._made[key] = digest
            return
        if picture is not None:
            self._made[key], self._making = digest, None
            self._send(SwatchMade(material=key, digest=digest), encode_jpeg(picture))

    def cancel(self) -> None:
        """Make `step` give way, until `ready`; safe from any thread."""
        self._maker.cancel()

    def ready(self) -> None:
        """Take back `cancel`."""
        self._maker.ready()
