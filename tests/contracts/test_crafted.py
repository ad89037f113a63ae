"""Whatever is posted to whichever address, it is answered in words: no broken page, and nothing half stored.

Each parameter that any view or form of an app asks for is sent as what no browser sends: lists, objects, a number of
four hundred digits, control characters, a text of a megabyte, a file in the place of a text. `--crafted 20000` for
more of them.
"""

import random
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client

from tests.contracts.test_every_page import MINE, OWN

POSTED = [(name, about) for name, method, about in OWN + MINE if method == "POST"] + [
    ("accounts:password", ""), ("accounts:farewell", ""), ("accounts:letters", ""), ("tools:json", "open-shutter"),
    ("bench:confirm", "trace"), ("kit:edit", "lenses lens"), ("workbench:shoot", "shoot"),
    ("workbench:cutout", "scene"),
]  # fmt: skip
SOURCES = Path(__file__).resolve().parents[2] / "rapzel"
ASKED = re.compile(
    r"""(?:POST|GET|FILES|posted)\.(?:get|getlist)\(\s*["']([\w:.-]+)["']"""
)
FIELD = re.compile(r"^ {4}([a-z_]\w*)(?:, \w+)* = .*(?:Field|_percent)\(", re.MULTILINE)
ALL_OVER = (
    "path",
    "value",
    "name",
    "revision",
    "direction",
    "key",
    "at",
    "on",
    "page",
    "word",
)

DIGITS = "9" * 400
CRAFTED: list[Any] = [
    ["a", "b", "c"], "[1, 2, {}]", '{"a": {"b": [null]}}', DIGITS, f"-{DIGITS}", f"1e{DIGITS}", "NaN", "-Infinity",
    "\0", "bell \x07", "١٢٣", "1_000", "x" * 2**20, "[" * 5000, f"[{DIGITS}]", f'{{"a": {DIGITS}}}',
    "null", "true", "-1", "0", "", "lights[#light-1].power", "lights[999999999].power", "__class__", "lights", "%00",
    "2027-13-45T99:00Z", "١٠:٠٠", "' OR 1=1 --", "{{ 7 * 7 }}", "../../etc/passwd", "=1+1",
]  # fmt: skip
LIKELY = [
    "1",
    "exposure.iso",
    "800",
    "keep",
    "early",
    "trigger.set_delay_s",
    "up",
    "find",
    "light-1",
    "2 m",
    "1/32",
]


@cache
def parameters(app: str) -> tuple[str, ...]:
    """The names that an app's views and forms ask for, and those that are asked for all over."""
    text = "\n".join(
        file.read_text("utf-8") for file in sorted((SOURCES / app).rglob("*.py"))
    )
    return tuple(sorted({*ASKED.findall(text), *FIELD.findall(text), *ALL_OVER}))


def _app(name: str) -> str:
    return name.partition(":")[0]


def _value(draw: random.Random) -> Any:
    if draw.random() < 0.04:
        return SimpleUploadedFile(
            "odd.bin", draw.choice([b"", b"\0\xff", b"{}", b"x" * 2000])
        )
    return draw.choice(LIKELY if draw.random() < 0.35 else CRAFTED)


def _cases(count: int) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """Each address several times, each time with some of its parameters crafted and some likely."""
    draw = random.Random(7)
    for number in range(count):
        name, about = POSTED[number % len(POSTED)]
        names = parameters(_app(name))
        some = draw.sample(names, draw.randint(1, len(names)))
        yield name, about, {each: _value(draw) for each in some}


def _sent(visitor: Client, url: str, data: dict[str, Any], parts: bool) -> int:
    headers = {"HX-Request": "true"} if parts else {}
    status = visitor.post(url, data, headers=headers).status_code
    assert status is not None
    return int(status)


def test_no_crafted_post_breaks_a_page(visitor, kit, address, crafted: int) -> None:
    """Each is taken back again, so that the next one finds the world as it was."""
    visitor.raise_request_exception = False
    broken = []
    for number, (name, about, data) in enumerate(_cases(crafted)):
        url = address(name, about)
        with transaction.atomic():
            status = _sent(visitor, url, data, parts=bool(number % 2))
            transaction.set_rollback(True)
        if status >= 500:
            shown = {key: str(value)[:60] for key, value in data.items()}
            broken.append(f"{name}: {status} {shown}")
    assert broken == []


@pytest.mark.parametrize("content", CRAFTED, ids=range(len(CRAFTED)))
def test_no_crafted_body_breaks_what_takes_json(visitor, content: Any) -> None:
    visitor.raise_request_exception = False
    text = content if isinstance(content, str) else "[]"
    body = text.encode("utf-8", "surrogatepass")
    for url in ("/tools/open-shutter/answer.json", "/practice/add/", "/shoots/add/"):
        status = visitor.post(url, body, content_type="application/json").status_code
        assert status < 500, url
