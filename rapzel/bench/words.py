"""The figures of a trace in words and rows, for pages."""

from typing import Any

from rapzel.core import units

_ROWS = (
    ("t05_s", "t.5", "u_t05_s"), ("t01_s", "t.1", "u_t01_s"), ("corrected_t05_s", "t.5, detector's lag out", ""),
    ("corrected_t01_s", "t.1, detector's lag out", ""), ("light_span_s", "5–95 % light span", ""),
    ("rise_s", "Rise 10–90 %", ""), ("time_to_peak_s", "Time to peak, from a tenth", ""),
    ("light_integral", "Light", "u_light_integral"), ("peak", "Peak", ""), ("baseline", "Baseline", ""),
    ("noise", "Noise, sd", ""),
)  # fmt: skip


_UNCALIBRATED = "of full scale"
_SECONDS = ((1.0, "s"), (1e-3, "ms"), (1e-6, "µs"))


def _light_unit(value: float | None) -> tuple[float, str]:
    """The part of a second that keeps a light integral readable, for its uncertainty and its spread as well."""
    return next((each for each in _SECONDS if abs(value or 1.0) >= each[0]), _SECONDS[-1])


def _shown(name: str, value: float, unit: str, light: tuple[float, str]) -> str:
    if name.endswith("_s"):
        return units.format_time(value)
    if name == "light_integral":
        parts = (light[1], unit) if unit == _UNCALIBRATED else (unit, light[1])
        return " ".join((_plain(value / light[0]), *parts))
    return f"{_plain(value)} {unit}"


def _plain(value: float) -> str:
    small = 0 < abs(value) < 1e-4
    return f"{value:.2e}".replace("-", units.MINUS) if small else units.format_number(value, 3)


def figure_rows(result: dict[str, Any]) -> list[dict[str, str]]:
    """Each figure with its unit, its uncertainty, and its spread over the pops."""
    unit = result.get("unit") or _UNCALIBRATED
    light = _light_unit(result.get("light_integral"))
    rows = []
    slow = any(warning["code"] == "slow_detector" for warning in result["warnings"])
    for name, label, doubt in _ROWS:
        value = result.get(name)
        if name.startswith("corrected") and (value is None or not slow):
            continue
        spread = result["spreads"].get(name) or {}
        rows.append(
            {
                "label": label,
                "value": "not to be read" if value is None else _shown(name, value, unit, light),
                "fraction": units.format_fraction(value) if value and name[:3] in ("t05", "t01") else "",
                "doubt": f"± {_shown(name, result[doubt], unit, light)}" if doubt and result.get(doubt) else "",
                "sd": _shown(name, spread["sd"], unit, light) if spread.get("sd") is not None else "",
            }
        )
    return rows
