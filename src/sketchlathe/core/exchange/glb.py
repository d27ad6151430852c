"""GLB (glTF 2.0 binary, Khronos Group / ISO 12113): one node a body, metres, y up, with colours."""

from __future__ import annotations

import json
from typing import Any, ClassVar

import numpy as np

from ..amounts.materials import FINISHES
from ..model.made_of import key_for, material_of
from .base import FORMATS, Export, Format, require_solid

_FLOAT, _UINT, _ARRAY, _INDEX = 5126, 5125, 34962, 34963


@FORMATS.add
class Glb(Format):
    """A scene for viewers and web pages."""

    kind: ClassVar[str] = "glb"
    word: ClassVar[str] = "GLB"
    ending: ClassVar[str] = "glb"
    media: ClassVar[str] = "model/gltf-binary"
    hint: ClassVar[str] = "smooth and coloured, in metres, for viewers and web pages"
    order: ClassVar[int] = 8
    meshed: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        from ..solid.meshing import meshed

        require_solid(export)
        scene: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Sketch Lathe"}, "scene": 0,
            "scenes": [{"nodes": list(range(len(export.bodies)))}], "nodes": [], "meshes": [], "materials": [],
            "accessors": [], "bufferViews": [], "buffers": [],
        }  # fmt: skip
        chunks: list[bytes] = []
        for number, body in enumerate(export.bodies):
            mesh = meshed(body.shape, export.chord, export.angle)
            points, normals = _upright(mesh.positions) * 1e-3, _upright(mesh.normals)
            normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-30)[:, None]
            at = [
                _put(scene, chunks, points.astype("<f4"), "VEC3", _FLOAT, _ARRAY, bounds=True),
                _put(scene, chunks, normals.astype("<f4"), "VEC3", _FLOAT, _ARRAY),
                _put(scene, chunks, mesh.triangles.astype("<u4").ravel(), "SCALAR", _UINT, _INDEX),
            ]
            scene["materials"].append(_material(export, body))
            attributes = {"POSITION": at[0], "NORMAL": at[1]}
            scene["meshes"].append({"primitives": [{"attributes": attributes, "indices": at[2], "material": number}]})
            scene["nodes"].append({"mesh": number, "name": export.name_of(body)})
        binary = b"".join(chunks)
        scene["buffers"].append({"byteLength": len(binary)})
        text = json.dumps(scene, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        size = 12 + 8 + len(text) + 8 + len(binary)
        return (
            b"glTF" + np.array([2, size, len(text)], "<u4").tobytes() + b"JSON" + text
            + np.array([len(binary)], "<u4").tobytes() + b"BIN\0" + binary
        )  # fmt: skip


def _upright(v: np.ndarray) -> np.ndarray:
    """z up becomes y up."""
    return np.stack([v[:, 0], v[:, 2], -v[:, 1]], axis=1).astype(np.float64)


def _put(
    scene: dict[str, Any], chunks: list[bytes], data: np.ndarray, kind: str, component: int, target: int,
    *, bounds: bool = False,
) -> int:  # fmt: skip
    raw = data.tobytes()
    offset = sum(len(c) for c in chunks)
    chunks.append(raw + b"\0" * (-len(raw) % 4))
    scene["bufferViews"].append({"buffer": 0, "byteOffset": offset, "byteLength": len(raw), "target": target})
    accessor: dict[str, Any] = {
        "bufferView": len(scene["bufferViews"]) - 1, "componentType": component, "count": len(data), "type": kind,
    }  # fmt: skip
    if bounds:
        accessor.update(min=data.min(axis=0).tolist(), max=data.max(axis=0).tolist())
    scene["accessors"].append(accessor)
    return len(scene["accessors"]) - 1


def _material(export: Export, body: Any) -> dict[str, Any]:
    stuff = material_of(export.model, key_for(export.model, export.part, body))
    finish, colour = FINISHES[stuff.finish], export.colour_of(body)
    # colours are written for screens; the format wants them linear
    linear = [(int(colour[i : i + 2], 16) / 255) ** 2.2 for i in (1, 3, 5)]
    return {
        "name": stuff.name,
        "pbrMetallicRoughness": {
            "baseColorFactor": [*(round(v, 5) for v in linear), round(1 - finish["clear"], 3)],
            "metallicFactor": finish["metal"],
            "roughnessFactor": round(1 - 0.8 * finish["shine"], 3),
        },
        **({"alphaMode": "BLEND"} if finish["clear"] else {}),
    }
