"""Names of the pictures of an order, by a template.

In: a template, what a picture is of. Out: a name without a suffix. Called by orders of the server and the command line.
"""

import re
from collections.abc import Sequence

from lantern.scene.orders import OrderError

TEMPLATE = "{place}-{edition}-{shot}-{light}-{width}x{height}"
FIELDS = ("place", "project", "edition", "shot", "light", "width", "height")
LONGEST = 150


def named(template: str, number: int, project: str, names: Sequence[str], width: int, height: int) -> str:
    """The name of a row's files: of letters, digits, dashes, points and lines below, as every system takes it.

    `names` are those of edition, shot and light. Raises OrderError for a field that there is not.
    """
    values = dict(zip(FIELDS, (f"{number + 1:03d}", project, *names, str(width), str(height)), strict=True))
    unknown = set(re.findall(r"{([^{}]*)}", template)) - values.keys()
    if unknown:
        told = ", ".join(f"{{{name}}}" for name in FIELDS)
        raise OrderError(f"There is no {{{min(unknown)}}} in a name; there are {told}.")
    text = re.sub(r"{([^{}]*)}", lambda found: values[found[1]], template)
    text = re.sub(r"[^\w.-]+", "-", text)
    return re.sub(r"-{2,}", "-", text).strip("-.")[:LONGEST] or f"{number + 1:03d}"
