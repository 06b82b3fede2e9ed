"""Where the running application keeps its things: one data folder, `$LANTERN_DATA` or `var/` of the checkout."""

import os
import secrets
from pathlib import Path

CHECKOUT = Path(__file__).resolve().parents[2]


def data_folder() -> Path:
    """The data folder, made if need be."""
    folder = Path(os.environ.get("LANTERN_DATA") or CHECKOUT / "var").resolve()
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def secret(name: str) -> str:
    """A random secret that is made once and kept in the data folder, readable by its owner only."""
    path = data_folder() / "secrets" / name
    if not path.is_file():
        path.parent.mkdir(mode=0o700, exist_ok=True)
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "w") as file:
            file.write(secrets.token_urlsafe(48))
    return path.read_text()
