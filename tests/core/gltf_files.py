"""glTF files for tests, built by hand from bytes."""

import copy
import json
import struct

import DracoPy
import meshopt
import numpy as np

POSITIONS = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]], np.float32)
INDICES = np.array([0, 1, 2, 2, 1, 3], np.uint16)


def document(buffer_length: int | None = None) -> dict:
    """A square of two triangles on a node that is moved by (1, 2, 3) and scaled by 2."""
    return {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"name": "Square", "mesh": 0, "translation": [1, 2, 3], "scale": [2, 2, 2]}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "material": 0}]}],
        "materials": [
            {
                "name": "Red Enamel",
                "pbrMetallicRoughness": {
                    "baseColorFactor": [0.8, 0.1, 0.05, 1],
                    "metallicFactor": 0.25,
                    "roughnessFactor": 0.4,
                },
                "emissiveFactor": [0.5, 0.25, 0],
                "extensions": {
                    "KHR_materials_emissive_strength": {"emissiveStrength": 12},
                    "KHR_materials_clearcoat": {"clearcoatFactor": 0.5, "clearcoatRoughnessFactor": 0.1},
                    "KHR_materials_ior": {"ior": 1.7},
                },
            }
        ],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
            {"bufferView": 1, "componentType": 5123, "count": 6, "type": "SCALAR"},
        ],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": 48},
            {"buffer": 0, "byteOffset": 48, "byteLength": 12},
        ],
        "buffers": [{"byteLength": 60 if buffer_length is None else buffer_length}],
    }


def binary(positions: np.ndarray = POSITIONS, indices: np.ndarray = INDICES) -> bytes:
    """The buffer of `document`."""
    return positions.astype("<f4").tobytes() + indices.astype("<u2").tobytes()


def glb(content: dict | None = None, data: bytes | None = None) -> bytes:
    """A GLB of a document and its buffer."""
    text = json.dumps(content or document()).encode()
    text += b" " * (-len(text) % 4)
    data = binary() if data is None else data
    data += b"\0" * (-len(data) % 4)
    total = 12 + 8 + len(text) + 8 + len(data)
    return (
        struct.pack("<4sII", b"glTF", 2, total)
        + struct.pack("<I4s", len(text), b"JSON") + text
        + struct.pack("<I4s", len(data), b"BIN\0") + data
    )  # fmt: skip


def changed(*steps, value) -> dict:
    """`document` with one thing changed; `steps` lead to it."""
    content = copy.deepcopy(document())
    place = content
    for step in steps[:-1]:
        place = place[step]
    place[steps[-1]] = value
    return content


def needing(name: str, content: dict | None = None) -> dict:
    """A document that needs an extension."""
    content = copy.deepcopy(content or document())
    content["extensionsUsed"] = content["extensionsRequired"] = [name]
    return content


def packed_document(positions: np.ndarray, indices: np.ndarray) -> tuple[dict, bytes]:
    """A file whose two buffer views are compressed, and its buffer."""
    data = meshopt.encode_gltf_buffer(positions, "ATTRIBUTES"), meshopt.encode_gltf_buffer(indices, "TRIANGLES")
    content = needing("EXT_meshopt_compression")
    at = 0
    sizes = ((4, positions.dtype.itemsize * positions.shape[1], "ATTRIBUTES"), (6, 2, "TRIANGLES"))
    for view, packed, (count, size, mode) in zip(content["bufferViews"], data, sizes, strict=True):
        view |= {"buffer": 1, "byteOffset": 0, "byteLength": count * size}
        view["extensions"] = {"EXT_meshopt_compression": {
            "buffer": 0, "byteOffset": at, "byteLength": len(packed), "byteStride": size, "count": count, "mode": mode,
        }}  # fmt: skip
        at += len(packed)
    content["buffers"] = [{"byteLength": at}, {"byteLength": 60}]
    return content, b"".join(data)


def draco_document() -> tuple[dict, bytes]:
    """The square, compressed, and its buffer."""
    data = DracoPy.encode(
        POSITIONS, faces=INDICES.reshape(-1, 3).astype(np.uint32), quantization_bits=16, preserve_order=True,
        tex_coord=POSITIONS[:, :2].astype(np.float64),
    )  # fmt: skip
    unique = {each["attribute_type"]: each["unique_id"] for each in DracoPy.decode(data).attributes}
    content = needing("KHR_draco_mesh_compression")
    primitive = content["meshes"][0]["primitives"][0]
    primitive["attributes"]["TEXCOORD_0"] = 2
    primitive["extensions"] = {"KHR_draco_mesh_compression": {
        "bufferView": 0, "attributes": {"POSITION": unique[0], "TEXCOORD_0": unique[3]},
    }}  # fmt: skip
    content["accessors"] = [
        {"componentType": 5126, "count": 4, "type": "VEC3"},
        {"componentType": 5125, "count": 6, "type": "SCALAR"},
        {"componentType": 5126, "count": 4, "type": "VEC2"},
    ]
    content["bufferViews"] = [{"buffer": 0, "byteOffset": 0, "byteLength": len(data)}]
    content["buffers"] = [{"byteLength": len(data)}]
    return content, data


def lit_document() -> dict:
    """The square with a light of each kind and a camera."""
    content = document()
    content["extensionsUsed"] = ["KHR_lights_punctual"]
    content["extensions"] = {"KHR_lights_punctual": {"lights": [
        {"type": "point", "intensity": 40, "color": [1, 0.5, 0]},
        {"type": "spot", "intensity": 900, "spot": {"innerConeAngle": 0.2, "outerConeAngle": 0.4}},
        {"type": "directional", "intensity": 1500},
    ]}}  # fmt: skip
    content["nodes"] += [
        {"name": f"Lamp {n}", "translation": [0, 4, 0], "rotation": [-np.sqrt(0.5), 0, 0, np.sqrt(0.5)],
         "extensions": {"KHR_lights_punctual": {"light": n}}}
        for n in range(3)
    ]  # fmt: skip
    content["cameras"] = [{"type": "perspective", "perspective": {"yfov": 0.5, "znear": 0.01}}]
    content["nodes"].append({"name": "Front", "camera": 0, "translation": [2, 3, 10]})
    content["scenes"][0]["nodes"] = [0, 1, 2, 3, 4]
    return content


def damaged_files() -> dict[str, tuple[str, bytes, str]]:
    """Kind of damage: (file name, content, words of the message)."""
    whole = glb()
    nan = POSITIONS.copy()
    nan[2, 1] = np.nan
    cyclic = changed("nodes", 0, "children", value=[1])
    cyclic["nodes"].append({"children": [0]})
    outside = changed("buffers", 0, "uri", value="../../etc/passwd")
    remote = changed("buffers", 0, "uri", value="https://example.org/mesh.bin")
    far = np.array([0, 1, 2, 2, 1, 9])
    packed = changed("extensionsRequired", value=["VENDOR_packed_shapes"])
    lines = changed("meshes", 0, "primitives", 0, "mode", value=1)
    return {
        "not an asset": ("photo.glb", b"\xff\xd8\xff\xe0 not a mesh", "is neither OpenUSD"),
        "empty": ("empty.glb", b"", "is neither OpenUSD"),
        "truncated": ("cut.glb", whole[: len(whole) // 2], "truncated"),
        "truncated header": ("cut.glb", whole[:9], "truncated"),
        "broken json": ("broken.gltf", b'{"asset": {"version": "2.0"', "JSON"),
        "another version": ("old.gltf", b'{"asset": {"version": "1.0"}}', "version 2.0"),
        "index out of range": ("index.glb", glb(data=binary(indices=far)), "index 9 is out of range"),
        "nan position": ("nan.glb", glb(data=binary(nan)), "vertex 2 is not finite"),
        "outside reference": ("outside.gltf", json.dumps(outside).encode(), "outside its own files"),
        "remote reference": ("remote.gltf", json.dumps(remote).encode(), "outside its own files"),
        "missing buffer": ("missing.gltf", json.dumps(document()).encode(), "no data"),
        "short buffer": ("short.glb", glb(changed("buffers", 0, "byteLength", value=4000)), "truncated"),
        "view beyond buffer": ("view.glb", glb(changed("bufferViews", 1, "byteLength", value=900)), "reaches beyond"),
        "cyclic nodes": ("cyclic.glb", glb(cyclic), "its own descendants"),
        "no triangles": ("lines.glb", glb(lines), "no triangles"),
        "missing mesh": ("mesh.glb", glb(changed("nodes", 0, "mesh", value=7)), "mesh 7"),
        "missing node": ("node.glb", glb(changed("scenes", 0, "nodes", value=[5])), "node 5 is missing"),
        "required extension": ("packed.glb", glb(packed), "VENDOR_packed"),
        "negative offset": ("offset.glb", glb(changed("bufferViews", 0, "byteOffset", value=-8)), "reaches beyond"),
        "wrong types": ("types.glb", glb(changed("nodes", 0, "translation", value="up")), "unreadable"),
        "wrong lists": ("lists.glb", glb(changed("nodes", value="up")), "follow glTF"),
    }  # fmt: skip
