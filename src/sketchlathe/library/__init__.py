"""Parts from Python: the core as a person who writes says it, with the words of the sentences.

Everything is said by the descriptions that the screen is made from: each step kind, drawing tool and constraint is a
method. Sizes are texts (``"5 mm"``), numbers or parameters; edges and faces are picked by what they are. What cannot be
is an exception with the sentence that the screen would show.
"""

from .formulas import Formula, Parameter
from .made import Step
from .model import Model
from .part import Part
from .picking import Edge, Edges, Face, Faces
from .sketches import Area, Curve, Point, Sketch

__all__ = [
    "Area", "Curve", "Edge", "Edges", "Face", "Faces", "Formula", "Model", "Parameter", "Part", "Point", "Sketch",
    "Step",
]  # fmt: skip
