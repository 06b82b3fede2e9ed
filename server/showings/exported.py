"""A showing as one file, or as a folder, that needs no server.

In: a showing, the page as it was built. Out: HTML with the pictures inside, or a zip with them beside it. Called by the
HTTP interface. What the page can do without a server it does: look, turn, switch, compare.
"""

import base64
import html
import io
import json
import zipfile
from pathlib import Path

from django.conf import settings

from server.errors import Refused
from server.projects.models import StoredFile
from server.runtime.stores import local_path
from server.showings.models import Showing, SlidePicture
from server.showings.seen import Address, seen

PAGE = "showing"
"""Folder of the page in the front end's build."""
MOST_BYTES = 400 << 20
"""Of the pictures of one file."""


def as_page(showing: Showing) -> bytes:
    """One HTML file with all pictures inside. Raises Refused before there is a picture, and for too much of them."""
    pictures = _pictures(showing)

    def address(slide: int, turn: int) -> str:
        return f"data:image/jpeg;base64,{base64.b64encode(_bytes_of(pictures[slide, turn])).decode()}"

    return _page(showing, address).encode()


def as_folder(showing: Showing) -> bytes:
    """A zip of an HTML file with its pictures beside it. Raises as `as_page`."""
    pictures = _pictures(showing)
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as folder:
        folder.writestr("index.html", _page(showing, _name_in_folder))
        for (slide, turn), stored in pictures.items():
            folder.writestr(_name_in_folder(slide, turn), _bytes_of(stored))
    return target.getvalue()


def _name_in_folder(slide: int, turn: int) -> str:
    return f"pictures/{slide}-{turn:02d}.jpg"


def _pictures(showing: Showing) -> dict[tuple[int, int], StoredFile]:
    found = SlidePicture.objects.filter(slide__showing=showing).select_related("picture")
    pictures = {(one.slide_id, one.turn): one.picture for one in found}
    if not pictures:
        raise Refused("No picture of this showing is made yet: wait for the first one.")
    if (size := sum(stored.size for stored in pictures.values())) > MOST_BYTES:
        raise Refused(f"These are {size >> 20} MiB of pictures, and a file has at most {MOST_BYTES >> 20} MiB.")
    return pictures


def _bytes_of(stored: StoredFile) -> bytes:
    return Path(local_path(stored.file.storage, stored.file.name)).read_bytes()


def _page(showing: Showing, address: Address) -> str:
    # Comments need a server, and what was said is not for whoever gets the file.
    told = seen(showing, address).model_copy(update={"rights": [r for r in showing.rights if r != "comment"]})
    for slide in told.slides:
        slide.comments = []
    folder = Path(settings.WEB_BUILD) / PAGE
    style, script = ((folder / name).read_text() for name in ("showing.css", "showing.js"))
    script = script.replace("</script", "<\\/script")
    data = json.dumps(told.model_dump(mode="json")).replace("<", "\\u003c")
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{html.escape(showing.name)}</title><style>{style}</style></head>"
        f'<body><div id="root"></div><script>window.SHOWING={data};</script>'
        f"<script>{script}</script></body></html>"
    )
