"""STL, PLY and OBJ files for tests, built by hand."""

import struct
from typing import Any

import numpy as np

CUBE = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.float32)
FACES = np.array([[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
                  [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]])  # fmt: skip


def stl_text(corners: np.ndarray) -> bytes:
    lines = ["solid cube"]
    for triangle in corners:
        lines += ["facet normal 0 0 0", "outer loop", *(f"vertex {x} {y} {z}" for x, y, z in triangle)]
        lines += ["endloop", "endfacet"]
    return "\n".join([*lines, "endsolid cube"]).encode()


def stl_binary(corners: np.ndarray) -> bytes:
    records = [struct.pack("<12fH", 0, 0, 0, *triangle.ravel(), 0) for triangle in corners]
    return b"\0" * 80 + struct.pack("<I", len(corners)) + b"".join(records)


def ply(points: Any, faces: Any, form: str, colors: Any = None) -> bytes:
    order = {"ascii": "", "binary_little_endian": "<", "binary_big_endian": ">"}[form]
    head = f"ply\nformat {form} 1.0\nelement vertex {len(points)}\n" + "".join(f"property float {a}\n" for a in "xyz")
    if colors is not None:
        head += "".join(f"property uchar {c}\n" for c in ("red", "green", "blue"))
    head += f"element face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    rows = colors if colors is not None else [()] * len(points)
    if form == "ascii":
        text = "".join(" ".join(map(str, (*p, *c))) + "\n" for p, c in zip(points, rows, strict=True))
        return (head + text + "".join(f"{len(f)} {' '.join(map(str, f))}\n" for f in faces)).encode()
    body = b"".join(struct.pack(f"{order}3f{len(c)}B", *p, *c) for p, c in zip(points, rows, strict=True))
    return head.encode() + body + b"".join(struct.pack(f"{order}B{len(f)}i", len(f), *f) for f in faces)


FILES = {
    "text.stl": stl_text(CUBE[FACES]),
    "binary.stl": stl_binary(CUBE[FACES]),
    **{f"{form}.ply": ply(CUBE, FACES, form) for form in ("ascii", "binary_little_endian", "binary_big_endian")},
    "quads.ply": ply(CUBE, [[0, 1, 3, 2], [4, 6, 7, 5]], "ascii"),
}

SQUARE = """# made by hand
mtllib {library}
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
vn 0 0 1
o Square
usemtl Red Enamel
f 1/1/1 2/2/1 3/3/1 4/4/1
"""
