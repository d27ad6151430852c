"""Thread: metric screw threads on rods and in holes, as real geometry with play for printing."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from ..sizes.iso_threads import PITCHES, minor, nearest, nominal
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.barrels import Barrel

_MOST_TURNS = 120
_OFF = 0.06  # share of the diameter by which a rod or hole may differ from the standard's


class Thread(Step):
    """The size follows the picked face, or a size of the table, or a pitch that is typed."""

    kind: Literal["thread"] = "thread"
    word: ClassVar[str] = "Thread"
    chord: ClassVar[str] = "st"
    synonyms: ClassVar[str] = "screw bolt nut metric tap lid jar"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 7
    icon: ClassVar[str] = "M7 2.500v18M16 2.500v18M7 5l9 3M7 9.500l9 3M7 14l9 3M7 18.500l5 1.600"
    hint: ClassVar[str] = "Pick the round face of a rod or a hole; its size follows the standard."
    sentence: ClassVar[str] = (
        "Thread {face} as {size}[, {fine}][ with a pitch of {pitch}], {form}[ with {play} of play], {length_word}"
        "[ over {length}], {hand}[, {lead}][, from {end}]"
    )

    face: Annotated[
        tuple[FacePick, ...], Blank("faces", "round face", "The side of a rod, or the wall of a hole.", most=1)
    ] = ()
    size: Annotated[
        Literal["face", "typed", "M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12", "M14", "M16", "M18", "M20",
                "M22", "M24", "M27", "M30", "M33", "M36", "M39", "M42", "M48", "M56", "M64"],
        Blank("choice", "size", "By the face: the metric size it is nearest to.",
              {"face": "the size nearest to it", "typed": "no standard size", **{k: k for k in PITCHES}}),
    ] = "face"  # fmt: skip
    fine: Annotated[
        Literal["coarse", "fine"],
        Blank("choice", "row", "Coarse is what shops have.", {"coarse": "coarse", "fine": "fine"},
              when=("size", ("face", *PITCHES))),
    ] = "coarse"  # fmt: skip
    pitch: Annotated[Formula, Blank("length", "pitch", "From one turn to the next.", when=("size", ("typed",)))] = (
        "3 mm"
    )
    form: Annotated[
        Literal["cut", "marked"],
        Blank("choice", "form", "Real turns, or a note only: cut later with a tap or a die.",
              {"cut": "with real turns", "marked": "marked only"}),
    ] = "cut"  # fmt: skip
    play: Annotated[
        Formula, Blank("length", "play", "Taken off a rod's diameters, added to a hole's.", when=("form", ("cut",)))
    ] = "0.2 mm"
    length_word: Annotated[
        Literal["all", "part"],
        Blank("choice", "how long", "", {"all": "all along", "part": "along a part"}),
    ] = "all"
    length: Annotated[
        Formula, Blank("length", "length", "From the end it begins at.", when=("length_word", ("part",)), main=True)
    ] = "10 mm"
    hand: Annotated[
        Literal["right", "left"], Blank("choice", "hand", "", {"right": "right-handed", "left": "left-handed"})
    ] = "right"
    lead: Annotated[
        Literal["lead", "full"],
        Blank("choice", "beginning", "A plain bevelled end of one pitch lets a nut find its way.",
              {"lead": "with a plain bevelled end", "full": "full to the end"}, when=("form", ("cut",))),
    ] = "lead"  # fmt: skip
    end: Annotated[
        Literal["free", "other"],
        Blank("choice", "end", "", {"free": "the open end", "other": "the other end"}),
    ] = "free"

    def build(self, context: Context) -> None:
        barrel = self._barrel(context)
        diameter, pitch = self._sizes(context, barrel)
        length = context.value(self, "length") if self.length_word == "part" else barrel.length
        if not pitch / 2 < length <= barrel.length + 1e-9:
            raise CannotBuild(
                f"The thread must be longer than half a pitch, and the face is {barrel.length:.4g} mm long.",
                where="length" if self.length_word == "part" else "face",
            )
        if length > _MOST_TURNS * pitch:
            raise CannotBuild(f"A thread has at most {_MOST_TURNS} turns: shorten it.", where="length_word")
        if self.form == "marked":
            what = "Tap" if barrel.inside else "Cut with a die"
            size = "" if self.size == "typed" else f"{nearest(2 * barrel.radius, barrel.inside)} × "
            hand = ", left-handed" if self.hand == "left" else ""
            context.afterwards.append(f"{what} {size or f'{diameter:.4g} × '}{pitch:g}, {length:.4g} mm long{hand}")
            return
        from ..solid.barrels import with_thread
        from ..solid.threading import iso_thread

        play = context.value(self, "play")
        if not 0 <= play < diameter / 4:
            raise CannotBuild(
                "The play must be nothing or a little: less than a quarter of the diameter.", where="play"
            )
        thread = iso_thread(diameter, pitch, play, barrel.inside, self.hand == "left")
        if thread.root <= 0.1 * diameter:
            raise CannotBuild("This pitch is too coarse for so thin a rod.", where="pitch")
        lead = pitch if self.lead == "lead" and not barrel.inside and barrel.open[0] and length > 2 * pitch else 0.0
        context.replace(barrel.body, [with_thread(self.id, barrel, thread, min(length, barrel.length), lead)])

    def _barrel(self, context: Context) -> Barrel:
        """The face, seen from the end the thread begins at."""
        from ..solid.barrels import barrel_of

        if not self.face:
            raise CannotBuild("Pick the round face of a rod or a hole.", where="face")
        found = context.faces_of(self.face, "face")[0]
        barrel = barrel_of(found.body, found.index)
        if barrel is None:
            raise CannotBuild("This face is not round all the way: pick the side of a rod or a hole.", where="face")
        away = tuple(round(v, 9) for v in barrel.frame.normal[::-1])
        if barrel.open[1] and (not barrel.open[0] or away > (0.0, 0.0, 0.0)):
            barrel = barrel.turned()  # of two open ends the upper one
        return barrel.turned() if self.end == "other" else barrel

    def _sizes(self, context: Context, barrel: Barrel) -> tuple[float, float]:
        """Nominal diameter and pitch, mm."""
        across = 2 * barrel.radius
        if self.size == "typed":
            pitch = context.value(self, "pitch")
            if not 0.1 <= pitch <= 100:
                raise CannotBuild("The pitch must be from 0.1 to 100 mm.", where="pitch")
            return (across + (across - minor(across, pitch)) if barrel.inside else across), pitch
        size = nearest(across, barrel.inside) if self.size == "face" else self.size
        row = PITCHES[size]
        pitch = row[0] if self.fine == "coarse" else row[1]
        diameter = nominal(size)
        wanted = minor(diameter, pitch) if barrel.inside else diameter
        if abs(across - wanted) > _OFF * diameter + 0.3:
            what = "hole" if barrel.inside else "rod"
            text = f"{wanted:.4g} mm"
            raise CannotBuild(
                f"For {size} × {pitch:g} the {what} must be {text} wide; this one is {across:.4g} mm. Change it, or "
                "type"
                " a pitch of your own.",
                where="size",
            )
        if self.size == "face":
            context.advice.append(Advice(f"This is {size} × {pitch:g}.", f"keep it {size}", {"size": size}))
        return diameter, pitch
