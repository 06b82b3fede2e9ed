"""Naming files by content."""

import hashlib
from collections.abc import Iterable
from pathlib import Path

import numpy as np


def sha256_of(path: Path) -> str:
    """Hex SHA-256 of a file's content."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def sha256_of_arrays(arrays: Iterable[np.ndarray | None]) -> str:
    """Hex SHA-256 of what arrays hold; of those that are not there that they are not."""
    digest = hashlib.sha256()
    for array in arrays:
        if array is None:
            digest.update(b"none")
        else:
            digest.update(f"{array.dtype}{array.shape}".encode())
            digest.update(np.ascontiguousarray(array).data)
    return digest.hexdigest()
