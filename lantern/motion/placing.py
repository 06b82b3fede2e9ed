"""Where a part stands: as its file says, in the asset's unit and upright, then moved, turned and sized by hand.

In: an asset and a part of a document. Out: matrices. Called by `poses`.
"""

import numpy as np

from lantern.scene.document import Part
from lantern.scene.standing import REST
from lantern.scene.turning import mirror_matrix, turn_matrix


def is_placed(part: Part) -> bool:
    """Whether a part was moved, turned or sized by hand."""
    turned = part.turn_x or part.turn_y or part.turn_z
    return bool(any(part.offset) or turned or part.size != 1 or part.mirror != "none")


def stands(part: Part) -> tuple[object, ...]:
    """Everything on which it depends where a part of an asset stands."""
    placed = (part.offset, part.turn_x, part.turn_y, part.turn_z, part.size, part.mirror, part.pivot)
    return part.matrix, part.keys, part.form is None, *placed


def placement_of(part: Part, stand: np.ndarray) -> np.ndarray:
    """(4, 4) that is laid over the matrices of a part, of an asset that stands as `stand` (4, 4)."""
    stand = stand if part.form is None else REST
    if not is_placed(part):
        return stand
    matrix = np.eye(4)
    matrix[:3, :3] = turn_matrix(part.turn_x, part.turn_y, part.turn_z) @ mirror_matrix(part.mirror) * part.size
    pivot = np.array(part.pivot)
    matrix[:3, 3] = pivot + np.array(part.offset) - matrix[:3, :3] @ pivot
    return np.asarray(matrix @ stand)
