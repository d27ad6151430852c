"""A step that was made: its sentence, its numbers, what it left."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from .picking import Edges, Faces, edges_among, faces_among

if TYPE_CHECKING:
    from .part import Part


class Step:
    """A step of a part. Its blanks are read and set by name: ``plate.distance = "6 mm"`` is what an edit on the screen
    is; a value that cannot be is refused, and nothing is changed.
    """

    def __init__(self, part: Part, id: str) -> None:
        self.__dict__.update(part=part, id=id)

    part: Part
    id: str

    @property
    def _step(self) -> Any:
        return self.part.model.document.step(self.id)

    @property
    def kind(self) -> str:
        """Which step kind it is."""
        return str(self._step.kind)

    @property
    def title(self) -> str:
        """What it is called in the list."""
        return self.part.model.document.title_of(self.id)

    @property
    def sentence(self) -> str:
        """What it says, its blanks filled."""
        from ..core.steps.base import full_sentence

        return full_sentence(self._step, self.part.model.document)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_") or name not in type(self._step).blanks():
            raise AttributeError(f"{type(self).__name__} has no “{name}”")
        return getattr(self._step, name)

    def __setattr__(self, name: str, value: Any) -> None:
        self.change(**{name: value})

    def change(self, **blanks: Any) -> None:
        """Fill some of its blanks anew, all at once. Raises ``BadInput`` or ``CannotBuild``, with nothing changed."""
        self.part.fill(self.id, blanks)

    def rename(self, name: str) -> None:
        """Call it something."""
        self.part.model.apply("rename_step", step=self.id, name=name)

    def delete(self) -> None:
        """Take it away. Raises ``Refused`` where others stand on it, naming them."""
        self.part.model.apply("delete_step", step=self.id)

    def edges(self, along: str | None = None, *, form: str | None = None, radius: float | None = None) -> Edges:
        """Edges of the part beside a face that this step made: those that run ``along`` x, y or z, of a ``form``, of a
        ``radius`` (mm). Raises ``NotFound`` where there is none.
        """
        return edges_among((e for e in self.part.things[0] if self.id in e.steps), along, form, radius)

    def faces(self, facing: str | None = None, *, form: str | None = None, radius: float | None = None) -> Faces:
        """Faces of the part that this step made: those ``facing`` up, down, left, right, front or back, of a ``form``,
        of a ``radius`` (mm). Raises ``NotFound`` where there is none.
        """
        return faces_among((f for f in self.part.things[1] if self.id in f.steps), facing, form, radius)

    @property
    def bodies(self) -> tuple[str, ...]:
        """Names of the bodies of the part that this step began."""
        return tuple(b.id for b in self.part.built.bodies if b.id.partition(".")[0] == self.id)

    def __repr__(self) -> str:
        return f"<{self.sentence}>"
