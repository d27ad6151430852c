"""Exact solids as STEP: written as AP242 with names and colours, read with names."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from OCP.APIHeaderSection import APIHeaderSection_MakeHeader
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing
from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.ShapeFix import ShapeFix_Shape, ShapeFix_Solid
from OCP.STEPCAFControl import STEPCAFControl_Reader, STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Controller
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_ColorSurf, XCAFDoc_DocumentTool

from ..errors import BadInput
from .kernel import FACE, SHELL, Shape, each, is_valid, mapped, solids_in
from .measuring import volume
from .transforms import location


class StepSolid(NamedTuple):
    """A solid to write: its shape (mm), name and colour (#rrggbb), and where it stands: (name,
    motion), see ``Copied``.
    """

    shape: Shape
    name: str
    colour: str
    copies: tuple[tuple[str, tuple[float, ...] | None], ...]


def write_step(solids: Sequence[StepSolid], name: str, path: str) -> bool:
    """Write solids with their names and colours; copies as an assembly that shares their shapes. False if the kernel
    could not.
    """
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    paint = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    assembled = any(motion is not None for s in solids for _, motion in s.copies)
    whole = tool.NewShape() if assembled else None
    if whole is not None:
        TDataStd_Name.Set_s(whole, TCollection_ExtendedString(name, True))
    for solid in solids:
        label = tool.AddShape(solid.shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(solid.name, True))
        rgb = [int(solid.colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        paint.SetColor(label, Quantity_Color(*rgb, Quantity_TOC_sRGB), XCAFDoc_ColorSurf)
        for said, motion in solid.copies if whole is not None else ():
            place = location(motion) if motion is not None else TopLoc_Location()
            copy = tool.AddComponent(whole, label, place)
            TDataStd_Name.Set_s(copy, TCollection_ExtendedString(said, True))
    if whole is not None:
        tool.UpdateAssemblies()
    STEPControl_Controller.Init_s()  # before it, settings are not known and ignored
    Interface_Static.SetCVal_s("write.step.schema", "AP242DIS")
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    if not writer.Transfer(document, STEPControl_AsIs):
        return False
    head = APIHeaderSection_MakeHeader(writer.ChangeWriter().Model(False))
    head.SetName(TCollection_HAsciiString((name if assembled else solids[0].name).encode("ascii", "replace").decode()))
    head.SetOriginatingSystem(TCollection_HAsciiString("Sketch Lathe"))
    head.SetAuthorValue(1, TCollection_HAsciiString(""))
    head.SetOrganizationValue(1, TCollection_HAsciiString(""))
    return bool(writer.Write(path) == IFSelect_RetDone)


class FileSolid(NamedTuple):
    """A solid of a file: its shape (mm), its name there, how many faces it has."""

    shape: Shape
    name: str
    faces: int


def read_step(data: bytes, name: str) -> tuple[list[FileSolid], list[str]]:
    """The solids of a STEP file, and remarks in words. Raises ``BadInput`` where there are none."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "in.step"
        path.write_bytes(data)
        STEPControl_Controller.Init_s()
        Interface_Static.SetCVal_s("xstep.cascade.unit", "MM")
        reader = STEPCAFControl_Reader()
        reader.SetNameMode(True)
        document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
        if reader.ReadFile(str(path)) != IFSelect_RetDone or not reader.Transfer(document):
            raise BadInput(f"“{name}” cannot be read: it is damaged, or not a STEP file of solids.")
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels = Sequence_TDF_Label()
    tool.GetFreeShapes(labels)
    found: list[FileSolid] = []
    notes: list[str] = []
    for i in range(1, labels.Length() + 1):
        label = labels.Value(i)
        title = TDataStd_Name()
        has = label.FindAttribute(TDataStd_Name.GetID_s(), title)
        word = str(title.Get().ToExtString()) if has else ""
        solids, mended = _solids(tool.GetShape_s(label))
        if mended:
            notes.append(f"{mended} shape{'s' if mended > 1 else ''} of “{name}” had to be mended or closed.")
        found += [FileSolid(s, word, mapped(s, FACE).Size()) for s in solids]
    if not found:
        raise BadInput(f"“{name}” has no closed solid in it, only surfaces or curves.")
    return found, notes


def _solids(shape: Shape) -> tuple[list[Shape], int]:
    """Sound solids of a shape, their places applied; loose faces are sewn into solids where they close."""
    sound: list[Shape] = []
    mended = 0
    candidates = solids_in(shape)
    if not candidates and mapped(shape, FACE).Size():
        sewing = BRepBuilderAPI_Sewing(1e-4)
        sewing.Add(shape)
        sewing.Perform()
        for shell in each(sewing.SewedShape(), SHELL):
            if BRep_Tool.IsClosed_s(shell):
                candidates.append(ShapeFix_Solid().SolidFromShell(shell))
                mended += 1
    for solid in candidates:
        good = solid
        if not is_valid(good):
            fixer = ShapeFix_Shape(good)
            fixer.Perform()
            pieces = solids_in(fixer.Shape())
            good = pieces[0] if len(pieces) == 1 else good
            mended += 1
        if is_valid(good) and abs(volume(good)) > 1e-9:
            sound.append(good if volume(good) > 0 else good.Reversed())
    return sound, mended
