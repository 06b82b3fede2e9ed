"""The picture of a pane as it is seen, whole and lossless, for a take.

In: a pane. Out: PNG with how far it has come. Called by `answers`.
"""

import base64

from lantern.picture.encode import encode_png
from server.host.pane import Pane
from server.protocol.panes import AS_IT_IS
from server.protocol.takes import Still, StillFound


def still(question: Still, pane: Pane | None) -> StillFound:
    """An answer without a picture before there is one."""
    shown = pane.displayed() if pane else None
    if pane is None or pane.film is None or shown is None:
        return StillFound(asked=question.request)
    return StillFound(
        asked=question.request,
        png=base64.b64encode(encode_png(shown)).decode(),
        samples=pane.shown.samples,
        noise=pane.noise,
        camera=pane.camera.model_dump(mode="json"),
        scene=None if pane.state is None or pane.state.under == AS_IT_IS else pane.engine.scene.plain(),
    )
