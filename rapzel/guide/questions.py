"""The dozen questions of the job, each with the page that answers it."""

import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from django.urls import reverse

_FILE = Path(__file__).with_name("questions.toml")


@dataclass(frozen=True)
class Question:
    """asks: as a photographer would; says: the short answer; view: the address; scene: whether it is a scene's page."""

    asks: str
    says: str
    view: str
    link: str
    scene: bool = True

    def address(self, scene: int | None) -> str:
        """Where it is answered for the scene last worked on; without one, where a scene begins."""
        if not self.scene:
            return reverse(self.view)
        if scene is None:
            return reverse("finding:begin")
        return reverse(self.view, args=[scene])


@cache
def questions() -> tuple[Question, ...]:
    """All of them, in the order of the job."""
    rows = tomllib.loads(_FILE.read_text("utf-8"))["question"]
    return tuple(Question(**row) for row in rows)
