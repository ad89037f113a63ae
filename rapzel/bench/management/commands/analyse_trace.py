"""manage.py analyse_trace FILE [--channel N] [--json] : what a recorded light did, without a database."""

import json
from functools import partial
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from rapzel.core.shared.units import format_number, format_time
from rapzel.core.trace import analyse_recording, read, recognise
from rapzel.core.trace.measuring.result import FIGURES
from rapzel.core.trace.reading.layout import HEAD_BYTES
from rapzel.core.trace.reading.samples import TraceError
from rapzel.ui import inputs


class Command(BaseCommand):
    help = "Analyses a light trace (CSV, TSV, TXT or WAV): t.5, t.1, rise, light, and every mistake that it shows."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--channel",
            type=int,
            help="number of the channel, from 1; else the one that shows light",
        )
        parser.add_argument(
            "--interval",
            type=partial(inputs.read, "duration"),
            help="time between two samples, if the file has none",
        )
        parser.add_argument(
            "--detector",
            type=partial(inputs.read, "duration"),
            help="time constant of the detector, for example 20us",
        )
        parser.add_argument(
            "--json", action="store_true", help="print the whole result as JSON"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            with options["file"].open("rb") as file:
                layout = recognise(file.read(HEAD_BYTES))
            given = {
                "interval_s": options["interval"],
                "detector_s": options["detector"],
            }
            layout = layout.model_copy(
                update={key: value for key, value in given.items() if value}
            )
            if options["channel"] is None:
                channel = None
            else:
                channel = options["channel"] - 1
            result = analyse_recording(
                read(options["file"], layout), channel
            ).to_document()
        except OSError as error:
            raise CommandError(
                f"Cannot read {options['file']}: {error.strerror or error}"
            ) from None
        except TraceError as error:
            raise CommandError(str(error)) from None
        if options["json"]:
            self.stdout.write(
                json.dumps(result, indent=2, ensure_ascii=False, allow_nan=False)
            )
        else:
            self._print(result)

    def _print(self, result: dict[str, Any]) -> None:
        for name in (*FIGURES, "ripple"):
            value = result[name]
            if value is None:
                shown = "not to be read"
            elif name.endswith("_s"):
                shown = format_time(value)
            else:
                shown = f"{format_number(value, 4)} {_unit(name, result)}"
            self.stdout.write(f"{name}: {shown.strip()}")
        self.stdout.write(f"pops: {len(result['pops'])}")
        self.stdout.write(f"pulses: {len(result['pulses'])}")
        self.stdout.write(f"warnings: {len(result['warnings'])}")
        for warning in result["warnings"]:
            self.stdout.write(f"  {warning['code']}: {warning['says']}")


def _unit(name: str, result: dict[str, Any]) -> str:
    unit = result["unit"] or "of full scale"
    if name.endswith("light_integral"):
        return f"{unit} s"
    return unit
