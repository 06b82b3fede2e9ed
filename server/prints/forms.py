"""The forms of a print that moves: a zip of pictures, or a film (`lantern.picture.video.FORMS`).

In: the name of a form. Out: what it can hold, what it takes, the settings of its frames. Called by whoever queues
prints and by workers.
"""

from lantern.picture.video import FORMS
from lantern.scene.document import Scene

SEQUENCES = {"frames": "png", "frames-jpg": "jpg", "frames-tif": "tif", "frames-exr": "exr"}
"""Of forms that are a zip of frames the kind of their files."""
USUAL_BYTES_A_PIXEL = 3
"""Of a frame while its film is made: a PNG takes less, and then comes the film."""
BYTES_A_PIXEL = {"frames-tif": 14, "frames-exr": 28}
"""Of forms whose frames take more, each once for itself and once in the zip: without further layers."""


def with_frames(scene: Scene, form: str) -> Scene:
    """The document of a print of a form: its frames are written as what the form is of, and have no other layers."""
    settings = scene.print.writing(SEQUENCES.get(form, "png"))
    return scene.model_copy(update={"print": settings})


def why_not_clear(form: str) -> str:
    """Why a form cannot have a transparent background; empty when it can."""
    has_alpha = form != "frames-jpg" if form in SEQUENCES else bool(FORMS[form].with_alpha)
    label = "JPEG" if form in SEQUENCES else FORMS[form].label
    return "" if has_alpha else f"{label} has no transparency: choose another form, or an opaque background."


def frames_bytes(scene: Scene, form: str) -> int:
    """Disk that the frames of a document take at most while a print of a form is made."""
    wanted = scene.print
    return scene.motion.frames * wanted.width * wanted.height * BYTES_A_PIXEL.get(form, USUAL_BYTES_A_PIXEL)
