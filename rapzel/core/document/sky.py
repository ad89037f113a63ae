"""Where and when a scene is outdoors, and under which sky."""

import re
from datetime import UTC, date, datetime, timedelta, timezone
from typing import Literal, Self

from pydantic import Field, model_validator

from rapzel.core.shared.part import Part

_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


class SkyAt(Part):
    """A sky over a place at a time; `hour` is the clock's there, with its offset from UTC."""

    state: Literal["clear", "haze", "cloud", "heavy", "shade"] = "clear"
    latitude_deg: float = Field(ge=-90, le=90)
    longitude_deg: float = Field(ge=-180, le=180, description="east is positive")
    date: str = Field(max_length=10, description="YYYY-MM-DD")
    hour: float = Field(ge=0, le=24)
    utc_offset_h: float = Field(0.0, ge=-14, le=14)
    facing: Literal["sun", "across", "away"] | None = Field(
        None,
        description="where the side that the camera sees is turned; null: not said",
    )

    @model_validator(mode="after")
    def _is_a_day(self) -> Self:
        try:
            # Python reads 20261126 as a day, too; other readers of the schema do not.
            if not _DAY.fullmatch(self.date):
                raise ValueError
            date.fromisoformat(self.date)
        except ValueError:
            raise ValueError(
                f"date: “{self.date}” is not a day. Accepted: 2026-11-26."
            ) from None
        return self

    def at(self, hour: float) -> datetime:
        """The instant at an hour of that day's clock; beyond 24 it is the next day's."""
        if self.utc_offset_h:
            zone = timezone(timedelta(hours=self.utc_offset_h))
        else:
            zone = UTC
        midnight = datetime.combine(
            date.fromisoformat(self.date), datetime.min.time(), zone
        )
        return midnight + timedelta(hours=hour)
