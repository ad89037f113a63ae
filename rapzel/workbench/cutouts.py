"""One's own cut-out as the subject of a scene: the form that takes it."""

from typing import Any

from django import forms
from django.conf import settings

from rapzel.core.decoding.apart import DecoderBusy, packed
from rapzel.core.decoding.cutting import Packed
from rapzel.core.decoding.header import PictureError
from rapzel.core.document.places import Document
from rapzel.ui.inputs import QuantityField

CORNERS = ("left", "top", "right", "bottom")
MOST_MB = 5


def _percent(label: str) -> forms.FloatField:
    widget = forms.NumberInput({"step": "0.5"})
    return forms.FloatField(
        label=label, min_value=0, max_value=100, required=False, widget=widget
    )


class CutOutForm(forms.Form):
    """The picture, which part of it moves and about what; places in percent of the picture from its upper left."""

    picture = forms.FileField(label="Picture", required=False)
    height = QuantityField(
        "length",
        label="Height of the subject",
        required=False,
        help_text="empty: six tenths of the frame",
    )
    partly = forms.BooleanField(label="Only a part of it moves", required=False)
    left, top, right, bottom = (_percent(f"{name.capitalize()}, %") for name in CORNERS)
    turns = forms.BooleanField(label="The part turns about a pivot", required=False)
    pivot_x, pivot_y = _percent("Pivot across, %"), _percent("Pivot down, %")

    def __init__(self, *args: Any, now: Document | None, **kwargs: Any) -> None:
        """now: the cut-out that the scene has."""
        super().__init__(*args, **kwargs)
        self.now = now

    def clean_picture(self) -> Packed:
        """As the document keeps it: the new one, else the whole of the one that is there."""
        file = self.cleaned_data["picture"]
        if not file:
            if self.now is None:
                raise forms.ValidationError(
                    "Choose a picture: a PNG in which all but the subject is transparent."
                )
            return Packed(self.now["picture"], (0.0, 0.0, 1.0, 1.0))
        # Before it is decoded, which may take a hundred times as much.
        if file.size > MOST_MB * 2**20:
            raise forms.ValidationError(
                f"The file is larger than {MOST_MB} MB; make the picture smaller."
            )
        try:
            return packed(file.read(), settings.DECODER_LOCK)
        except (PictureError, DecoderBusy) as error:
            raise forms.ValidationError(str(error)) from error

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if cleaned.get("partly") and not self.errors:
            wrong = self._wrong_part(
                [cleaned.get(name) for name in CORNERS], cleaned["picture"]
            )
            if wrong:
                self.add_error("partly", wrong)
        if cleaned.get("turns") and None in (
            cleaned.get("pivot_x"),
            cleaned.get("pivot_y"),
        ):
            self.add_error(
                "turns", "Mark the pivot: give how far across and down it is."
            )
        return cleaned

    @staticmethod
    def _wrong_part(corners: list[float | None], kept: Packed) -> str:
        """What is wrong with the part [percent: left, top, right, bottom]; empty where nothing is."""
        marked = [corner / 100 for corner in corners if corner is not None]
        if len(marked) < len(CORNERS):
            return "Mark the part: give its left, top, right and bottom."
        left, top, right, bottom = marked
        if right <= left or bottom <= top:
            return "The part has no area: right must lie beyond left, and bottom below top."
        # The picture is kept without its empty margins, so that places on it have to be counted
        # anew.
        (x0, y0), (x1, y1) = kept.inside(left, top), kept.inside(right, bottom)
        if x1 <= x0 or y1 <= y0:
            return "Nothing of the subject lies in the part: mark where it is not transparent."
        return ""

    @property
    def cutout(self) -> Document:
        """The cut-out of a valid form, its places counted in the picture as it is kept."""
        given = self.cleaned_data
        kept: Packed = given["picture"]
        moving = pivot = None
        if given["partly"]:
            left, top, right, bottom = (given[name] / 100 for name in CORNERS)
            moving = [*kept.inside(left, top), *kept.inside(right, bottom)]
            if given["turns"]:
                pivot = list(
                    kept.inside(given["pivot_x"] / 100, given["pivot_y"] / 100)
                )
        return {"picture": kept.picture, "moving": moving, "pivot": pivot}


def beginning_of(document: Document) -> Document:
    """What the form shows of a scene's document; the upper half as a part where nothing is marked yet."""
    rehearsal = document.get("rehearsal") or {}
    now = rehearsal.get("cutout") or {}
    moving, pivot = now.get("moving"), now.get("pivot")
    corners = zip(CORNERS, moving or (0.25, 0.0, 0.75, 0.5), strict=True)
    shown = {name: round(share * 100, 1) for name, share in corners}
    across, down = pivot or (0.5, 0.5)
    return {
        **shown,
        "partly": moving is not None,
        "turns": pivot is not None,
        "pivot_x": round(across * 100, 1),
        "pivot_y": round(down * 100, 1),
        "height": rehearsal.get("size_m")
        if rehearsal.get("subject") == "cutout"
        else None,
    }
