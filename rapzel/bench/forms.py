"""What a person confirms before a recording is measured."""

import re
from dataclasses import asdict
from typing import Any

from django import forms
from pydantic import ValidationError

from rapzel.bench.models import Trace
from rapzel.core.colour.grey_card import FrameError, Patch
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.refusals import refused, spoken
from rapzel.core.shutter.calibrate import Band
from rapzel.core.trace import Layout
from rapzel.core.trace.reading.layout import TIME_UNITS, VALUE_UNITS, Column
from rapzel.kit.models import Strobe
from rapzel.ui.inputs import QuantityField, read

ROLES = (
    ("time", "Time"),
    ("value", "Signal"),
    ("index", "Number"),
    ("segment", "Sweep number"),
    ("skip", "Leave out"),
)
UNITS = (
    ("", "–"),
    ("s", "s"),
    ("ms", "ms"),
    ("µs", "µs"),
    ("ns", "ns"),
    ("V", "V"),
    ("mV", "mV"),
)


def offer_strobes(form: forms.Form, owner: Any) -> None:
    """Lets the form's `strobe` be one of the owner's, and nobody else's."""
    # The choices are set for each form: a queryset of the class would offer everybody's strobes.
    strobe = form.fields["strobe"]
    assert isinstance(strobe, forms.ModelChoiceField)
    strobe.queryset = Strobe.objects.visible_to(owner)


class ConfirmForm(forms.Form):
    """How the file is read, which channel is measured, and which setting of which strobe it was."""

    name = forms.CharField(max_length=120)
    interval_s = QuantityField(
        "duration",
        label="Time between samples",
        required=False,
        help_text="only where no column holds the time: 1 µs",
    )
    detector_s = QuantityField(
        "duration",
        label="Detector time constant",
        required=False,
        help_text="if known: 5 µs; its lag is then taken out",
    )
    channel = forms.TypedChoiceField(
        label="Channel with the light", coerce=int, empty_value=None, required=False
    )
    strobe = forms.ModelChoiceField(
        Strobe.objects.none(), required=False, empty_label="not said"
    )
    mode = forms.CharField(max_length=200, required=False)
    power = QuantityField("power", required=False, help_text="1/16, −4 stops")

    def __init__(self, *args: Any, trace: Trace, owner: Any, **kwargs: Any) -> None:
        self.trace, self.layout = trace, Layout(**trace.layout)
        # What was recognised is filled in, so that confirming is one press in most cases.
        known = {
            "name": trace.name,
            "interval_s": self.layout.interval_s,
            "detector_s": self.layout.detector_s,
            "channel": trace.channel,
            "strobe": trace.strobe_id,
            "mode": trace.mode,
            "power": trace.power,
        }
        super().__init__(*args, **{**kwargs, "initial": known})
        offer_strobes(self, owner)
        # Only signals can be measured; the time and what is left out are not offered.
        names = [self.layout.columns[place].name for place in self.layout.of("value")]
        choices = [
            ("", "the one that shows light"),
            *((str(n), name) for n, name in enumerate(names)),
        ]
        channel = self.fields["channel"]
        assert isinstance(channel, forms.TypedChoiceField)
        channel.choices = choices
        for name in ("interval_s", "detector_s"):
            # A sound card says its rate in the file.
            if self.layout.kind == "wav" and name == "interval_s":
                del self.fields[name]

    @property
    def column_rows(self) -> list[dict[str, Any]]:
        """The columns as recognised, or as just chosen, with the first cells of each for the preview."""
        preview = self.layout.preview
        return [
            {
                "column": column,
                "place": place,
                "cells": [row[place] for row in preview if place < len(row)][:4],
            }
            for place, column in enumerate(self._columns())
        ]

    def _columns(self) -> list[Column]:
        return [
            _column(
                column, self.data.get(f"role-{place}"), self.data.get(f"unit-{place}")
            )
            for place, column in enumerate(self.layout.columns)
        ]

    @property
    def way(self) -> str:
        """Delimiter and decimal sign, as the list of ways keys them."""
        return self.layout.delimiter + self.layout.decimal

    @property
    def first_line(self) -> int:
        """The line of the file at which the data begin, counted from 1."""
        return self.layout.first_row + 1

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if (
            # A measurement goes into a row of a strobe's table, and a row is found by its power.
            bool(cleaned.get("strobe")) != bool(cleaned.get("power"))
            and "power" not in self.errors
        ):
            self.add_error("power", "Say both the strobe and its power, or neither.")
        return cleaned

    def confirmed(self) -> Layout:
        """The layout as confirmed. Raises forms.ValidationError where it cannot be read that way."""
        columns = self._columns()
        if self.layout.kind == "text" and not any(
            column.role == "value" for column in columns
        ):
            raise forms.ValidationError("Mark at least one column as the signal.")
        try:
            return Layout.model_validate(
                {
                    # Only what the form asks is replaced; how the file is cut into lines was
                    # recognised and stays.
                    **self.layout.model_dump(),
                    "columns": [column.model_dump() for column in columns],
                    "interval_s": self.cleaned_data.get("interval_s"),
                    "detector_s": self.cleaned_data.get("detector_s"),
                }
            )
        except ValidationError as error:
            raise forms.ValidationError(
                # Three are enough to mend by; the rest often follows from the first.
                [spoken(str(problem)) for problem in refused(error).problems[:3]]
            ) from None


def _column(column: Column, role: str | None, unit: str | None) -> Column:
    """A column with what was chosen for it; what is not offered leaves it as it was."""
    # Roles and units come from the browser, and are taken from the offered ones alone.
    if role in dict(ROLES):
        chosen_role = role
    else:
        chosen_role = column.role
    if unit in dict(UNITS):
        chosen_unit = unit
    else:
        chosen_unit = column.unit
    if chosen_role == "time":
        # What a unit is worth depends on the role of its column: seconds, or volts.
        scales = TIME_UNITS
    else:
        scales = VALUE_UNITS
    return Column(
        name=column.name,
        role=chosen_role,
        unit=chosen_unit or "",
        scale=scales.get((chosen_unit or "").lower(), 1.0),
    )


def _powers(text: str) -> list[float]:
    """`1/1, 1/2 1/4` as shares of full power. Raises UnitError."""
    # Commas, semicolons and spaces all part powers, because nobody keeps to one of them.
    return [read("power", each) for each in re.split(r"[;,\s]+", text.strip()) if each]


class ColourForm(forms.Form):
    """What is known of the frames of a grey card."""

    name = forms.CharField(max_length=120, initial="Grey card")
    strobe = forms.ModelChoiceField(
        Strobe.objects.none(), required=False, empty_label="not said"
    )
    mode = forms.CharField(max_length=200, required=False)
    white_balance_k = forms.FloatField(
        label="White balance of the frames, K",
        min_value=1700,
        max_value=25_000,
        initial=5500,
        help_text="the same for all of them",
    )
    tolerance = forms.FloatField(
        label="Tolerance, ΔE00", min_value=0.05, max_value=50, initial=1.0
    )
    powers = forms.CharField(
        label="Powers, in the order of the files' names",
        required=False,
        max_length=2000,
        help_text="1/1, 1/2, 1/4 …; empty where all pops are alike",
    )
    patch = forms.CharField(
        required=False, widget=forms.HiddenInput(attrs={"x-ref": "patch"})
    )

    def __init__(self, *args: Any, owner: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offer_strobes(self, owner)

    def clean_powers(self) -> list[float]:
        try:
            return _powers(self.cleaned_data["powers"])
        except UnitError as error:
            raise forms.ValidationError(str(error)) from error

    def clean_patch(self) -> dict[str, float] | None:
        text = self.cleaned_data["patch"]
        if not text:
            return None
        try:
            # The script writes the patch as four numbers in shares of the frame.
            left, top, width, height = (float(each) for each in text.split(","))
            return asdict(Patch(left, top, width, height))
        except (ValueError, FrameError) as error:
            raise forms.ValidationError(f"The patch cannot be used: {error}") from error


FRAMES = ("1", "2", "3")  # test frames that are entered at once


class CurtainForm(forms.Form):
    """Up to three test frames: shutter and how much of the height is dark, at which edge."""

    edge = forms.ChoiceField(
        label="The dark band lies at the",
        choices=[("lower", "lower edge"), ("upper", "upper edge")],
        required=False,
    )
    latency = QuantityField(
        "duration",
        label="Latency, where known",
        required=False,
        help_text="contact to light",
    )
    pulse = QuantityField(
        "duration",
        label="t.1 of the light",
        required=False,
        help_text="lowest power is best",
    )

    def __init__(self, data: Any = None) -> None:
        super().__init__(data)
        for number in FRAMES:
            # Fields by number and not a form set: there are never more than three, and two solve
            # the line.
            self.fields[f"shutter{number}"] = QuantityField(
                "shutter", label="Shutter", required=False
            )
            self.fields[f"dark{number}"] = QuantityField(
                "number", label="Dark, %", required=False
            )
        for field in self.fields.values():
            field.widget.attrs["class"] = "entry narrow"

    @property
    def visible_settings(self) -> list[forms.BoundField]:
        """What holds for all frames."""
        return [self[name] for name in ("edge", "latency", "pulse")]

    def rows(self) -> list[tuple[forms.BoundField, forms.BoundField]]:
        """Shutter and dark share of each frame."""
        return [(self[f"shutter{number}"], self[f"dark{number}"]) for number in FRAMES]

    @property
    def bands(self) -> list[Band]:
        """The frames that are complete; call it on a valid form."""
        given = self.cleaned_data
        return [
            Band(
                given[f"shutter{number}"],
                # People estimate a share of the height in percent.
                given[f"dark{number}"] / 100,
                given["edge"] or "lower",
            )
            for number in FRAMES
            # A dark share of 0 % is a test frame too: it says that nothing was cut off.
            if given.get(f"shutter{number}") and given.get(f"dark{number}") is not None
        ]
