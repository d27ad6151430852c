"""Writing exact solids as STEP AP242 with names."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.APIHeaderSection import APIHeaderSection_MakeHeader
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Controller
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_ColorSurf, XCAFDoc_DocumentTool

from .kernel import Shape


def write_step(shapes: Sequence[Shape], names: Sequence[str], colours: Sequence[str], path: str) -> bool:
    """Write solids (mm) with their names and colours (#rrggbb); False if the kernel could not."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    paint = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for shape, name, colour in zip(shapes, names, colours):
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))
        rgb = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        paint.SetColor(label, Quantity_Color(*rgb, Quantity_TOC_sRGB), XCAFDoc_ColorSurf)
    STEPControl_Controller.Init_s()  # before it, settings are not known and ignored
    Interface_Static.SetCVal_s("write.step.schema", "AP242DIS")
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    if not writer.Transfer(document, STEPControl_AsIs):
        return False
    head = APIHeaderSection_MakeHeader(writer.ChangeWriter().Model(False))
    head.SetName(TCollection_HAsciiString(names[0].encode("ascii", "replace").decode()))
    head.SetOriginatingSystem(TCollection_HAsciiString("Sketch Lathe"))
    head.SetAuthorValue(1, TCollection_HAsciiString(""))
    head.SetOrganizationValue(1, TCollection_HAsciiString(""))
    return bool(writer.Write(path) == IFSelect_RetDone)
