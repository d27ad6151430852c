"""STL (binary and text) and 3MF as surfaces of triangles: reference bodies, shown, measured and sectioned."""

from __future__ import annotations

import io
import re
import struct
import zipfile
from typing import ClassVar

import numpy as np

from ..errors import BadInput
from ..mesh.surface import Surface, together, welded
from ..zips import DAMAGED
from .base import READERS, Brought, Reader, packed, unpacked

MOST_TRIANGLES = 500_000
MOST_UNZIPPED = 300_000_000
_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)


@READERS.add
class Stl(Reader):
    """Triangles without units: taken as mm, another unit is a blank of the step."""

    kind: ClassVar[str] = "stl"
    word: ClassVar[str] = "STL"
    endings: ClassVar[tuple[str, ...]] = (".stl",)
    gives: ClassVar[str] = "step"

    def read(self, data: bytes, name: str) -> Brought:
        corners = _binary(data, name) if _looks_binary(data) else _text(data, name)
        return _brought(welded(_sound(corners, name)), name)


def _looks_binary(data: bytes) -> bool:
    if len(data) >= 84 and len(data) == 84 + 50 * struct.unpack_from("<I", data, 80)[0]:
        return True
    return not (data[:512].lstrip()[:5].lower() == b"solid" and b"facet" in data[:2000].lower())


def _binary(data: bytes, name: str) -> np.ndarray:
    if len(data) < 84:
        raise BadInput(f"“{name}” is not an STL file, or is cut short: it ends before its first triangle.")
    count = struct.unpack_from("<I", data, 80)[0]
    if count > MOST_TRIANGLES:
        # a text or any other file read as binary claims absurd counts
        if 84 + 50 * count > 4 * len(data):
            raise BadInput(
                f"“{name}” is not an STL file, or is damaged: it claims {count} triangles and has not the bytes for "
                "them."
            )
        raise BadInput(f"“{name}” has {count} triangles; at most {MOST_TRIANGLES} can be brought in.")
    if len(data) < 84 + 50 * count:
        raise BadInput(
            f"“{name}” is cut short: it claims {count} triangles and ends after {max(len(data) - 84, 0) // 50}."
        )
    return np.frombuffer(data, _FACET, count, 84)["corners"].astype(np.float64)


def _text(data: bytes, name: str) -> np.ndarray:
    found = _VERTEX.findall(data)
    if len(found) > 3 * MOST_TRIANGLES:
        raise BadInput(f"“{name}” has {len(found) // 3} triangles; at most {MOST_TRIANGLES} can be brought in.")
    if len(found) % 3 or b"endsolid" not in data[-400:].lower():
        raise BadInput(f"“{name}” is cut short: its last triangle or its end is missing.")
    try:
        return np.array(found, dtype=np.float64).reshape(-1, 3, 3)
    except ValueError as error:
        raise BadInput(f"“{name}” is damaged: a corner is not three numbers.") from error


def _sound(corners: np.ndarray, name: str) -> np.ndarray:
    if not len(corners):
        raise BadInput(f"“{name}” has no triangles in it.")
    if not np.isfinite(corners).all():
        raise BadInput(f"“{name}” is damaged: some corners are not numbers (NaN or infinite).")
    if np.abs(corners).max() > 1e6:
        raise BadInput(f"“{name}” reaches farther than a kilometre; is it in another unit?")
    return corners


@READERS.add
class ThreeMf(Reader):
    """Objects with units, as one reference body."""

    kind: ClassVar[str] = "3mf"
    word: ClassVar[str] = "3MF"
    endings: ClassVar[tuple[str, ...]] = (".3mf",)
    gives: ClassVar[str] = "step"

    def read(self, data: bytes, name: str) -> Brought:
        _check_zip(data, name)
        try:
            found = _surfaces(data, name)
        except BadInput:
            raise
        except Exception as error:  # the library's own, of whatever kind
            raise BadInput(f"“{name}” is not a sound 3MF file: its model cannot be read.") from error
        if not found:
            raise BadInput(f"“{name}” has no triangles in it.")
        return _brought(together(found), name)


def _surfaces(data: bytes, name: str) -> list[Surface]:
    """What is in a 3MF, in mm. Raises ``BadInput``, or what the library raises."""
    import lib3mf
    from lib3mf import get_wrapper

    document = get_wrapper().CreateModel()
    document.QueryReader("3mf").ReadFromBuffer(data)
    unit = {
        lib3mf.ModelUnit.MicroMeter: 1e-3, lib3mf.ModelUnit.MilliMeter: 1.0, lib3mf.ModelUnit.CentiMeter: 10.0,
        lib3mf.ModelUnit.Inch: 25.4, lib3mf.ModelUnit.Foot: 304.8, lib3mf.ModelUnit.Meter: 1000.0,
    }[document.GetUnit()]  # fmt: skip
    merged = document.MergeToModel()
    things = merged.GetMeshObjects()
    found: list[Surface] = []
    total = 0
    while things.MoveNext():
        thing = things.GetCurrentMeshObject()
        total += thing.GetTriangleCount()
        if total > MOST_TRIANGLES:
            raise BadInput(
                f"“{name}” has more than {MOST_TRIANGLES} triangles, which is the most that can be brought in."
            )
        points = np.ctypeslib.as_array(_flat(thing.GetVertices(), "Coordinates", float)).reshape(-1, 3)
        corners = np.ctypeslib.as_array(_flat(thing.GetTriangleIndices(), "Indices", int)).reshape(-1, 3)
        if len(corners):
            found.append(welded(_sound(points[corners] * unit, name)))
    return found


def _flat(items: list[object], field: str, kind: type) -> np.ndarray:
    return np.array([tuple(getattr(i, field)) for i in items], dtype=np.float64 if kind is float else np.int64)


def _check_zip(data: bytes, name: str) -> None:
    """Refuse what is no zip, what unpacks to too much, and names that lead out of it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as inside:
            infos = inside.infolist()
    except DAMAGED as error:
        raise BadInput(f"“{name}” is not a 3MF file, or is cut short: it cannot be unpacked.") from error
    size = sum(i.file_size for i in infos)
    if size > MOST_UNZIPPED or len(infos) > 2000:
        raise BadInput(f"“{name}” unpacks to {size / 1e6:.0f} MB; at most {MOST_UNZIPPED / 1e6:.0f} MB can be read.")
    if any(i.filename.startswith(("/", "\\")) or ".." in i.filename.replace("\\", "/").split("/") for i in infos):
        raise BadInput(f"“{name}” has names in it that lead out of the file; it is not read.")
    if not any(i.filename.lower().endswith(".model") for i in infos):
        raise BadInput(f"“{name}” is a zip file, but no 3MF: there is no model in it.")


def _brought(surface: Surface, name: str) -> Brought:
    if not len(surface.triangles):
        raise BadInput(f"“{name}” has only triangles without area.")
    notes = () if surface.closed else (f"“{name}” is not watertight: {len(surface.open_edges)} edges are open.",)
    return Brought("step", "reference", {"file": name, "data": pack_surface(surface)}, notes=notes)


def pack_surface(surface: Surface) -> str:
    """A surface as text that a model can hold (positions as 32-bit floats)."""
    head = struct.pack("<II", len(surface.positions), len(surface.triangles))
    return packed(head + surface.positions.astype("<f4").tobytes() + surface.triangles.astype("<u4").tobytes())


def unpack_surface(text: str) -> Surface:
    """What ``pack_surface`` packed; raises ``BadInput`` for anything else."""
    data = unpacked(text)
    if len(data) < 8:
        raise BadInput("The triangles in this step are damaged. Bring the file in again.")
    points, triangles = struct.unpack_from("<II", data)
    if triangles > MOST_TRIANGLES or len(data) != 8 + 12 * (points + triangles):
        raise BadInput("The triangles in this step are damaged. Bring the file in again.")
    positions = np.frombuffer(data, "<f4", 3 * points, 8).reshape(-1, 3).astype(np.float64)
    corners = np.frombuffer(data, "<u4", 3 * triangles, 8 + 12 * points).reshape(-1, 3).astype(np.int64)
    if not np.isfinite(positions).all() or (len(corners) and corners.max() >= points):
        raise BadInput("The triangles in this step are damaged. Bring the file in again.")
    return Surface(positions, corners)
