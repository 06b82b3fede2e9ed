"""Naming files by content."""

import hashlib
from pathlib import Path


def sha256_of(path: Path) -> str:
    """Hex SHA-256 of a file's content."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
