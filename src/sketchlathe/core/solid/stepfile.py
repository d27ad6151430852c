"""Writing exact solids as STEP AP242 with names."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Controller
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from .kernel import Shape


def write_step(shapes: Sequence[Shape], names: Sequence[str], path: str) -> bool:
    """Write solids (mm) with their names; False if the kernel could not."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    for shape, name in zip(shapes, names):
        label = tool.AddShape(shape, False)
        # the binding breaks on letters outside ASCII
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name.encode("ascii", "replace").decode()))
    STEPControl_Controller.Init_s()  # before it, settings are not known and ignored
    Interface_Static.SetCVal_s("write.step.schema", "AP242DIS")
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    if not writer.Transfer(document, STEPControl_AsIs):
        return False
    return bool(writer.Write(path) == IFSelect_RetDone)
