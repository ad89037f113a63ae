"""The palette, written once (`palette.json`): colours of themes and files, and how each class of a drawing looks.

Run by itself (`python3 rapzel/ui/palette.py > …/_palette.scss`) it prints the styles; it needs no other package then.
"""

import json
from pathlib import Path
from typing import Any

Looks = dict[str, dict[str, str]]  # by class, then by attribute of SVG

_SOURCE: dict[str, Any] = json.loads(
    Path(__file__).with_name("palette.json").read_text("utf-8")
)
THEMES: dict[str, dict[str, str]] = _SOURCE["themes"]
FILE: dict[str, str] = _SOURCE["file"]
LOOKS: Looks = _SOURCE["looks"]
_LIGHT = ("paper",)  # themes of the browser's own light controls


def looks_in_files() -> Looks:
    """How each class looks in a file of its own, where no theme reaches: with literal colours."""
    return {
        name: {attribute: FILE.get(value, value) for attribute, value in look.items()}
        for name, look in LOOKS.items()
    }


def _token(value: str) -> str:
    """A value of a look as the styles write it; a text in a colour has a token of its own in files only."""
    plain = value.removesuffix("-text")
    for name in (value, plain):
        if name in THEMES["dark"]:
            return f"var(--{name})"
    return value


def _theme(name: str) -> list[str]:
    tokens = [f"  --{token}: {colour};" for token, colour in THEMES[name].items()]
    scheme = "light" if name in _LIGHT else "dark"
    return [f"@mixin {name} {{", *tokens, f"  color-scheme: {scheme};", "}"]


def _look(name: str) -> str:
    written = " ".join(f"{key}: {_token(value)};" for key, value in LOOKS[name].items())
    return f"  .{name} {{ {written} }}"


def styles() -> str:
    """The themes as mixins, and the classes of drawings, for the compiler of styles."""
    lines = ["// Made from palette.json by palette.py; changed there."]
    lines.append(
        f"$flash: {THEMES['dark']['flash']};  // for what is worked out when styles are compiled"
    )
    for name in THEMES:
        lines += _theme(name)
    lines += ["@mixin drawings {", *map(_look, LOOKS), "}"]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    print(styles(), end="")
