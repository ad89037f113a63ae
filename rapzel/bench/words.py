"""The figures of a trace in words and rows, for pages."""

from typing import Any

from rapzel.core.shared import units

_ROWS = (
    ("t05_s", "t.5", "u_t05_s"), ("t01_s", "t.1", "u_t01_s"), ("corrected_t05_s", "t.5, detector's lag out", ""),
    ("corrected_t01_s", "t.1, detector's lag out", ""), ("light_span_s", "5–95 % light span", ""),
    ("rise_s", "Rise 10–90 %", ""), ("time_to_peak_s", "Time to peak, from a tenth", ""),
    ("light_integral", "Light", "u_light_integral"), ("peak", "Peak", ""), ("baseline", "Baseline", ""),
    ("noise", "Noise, sd", ""),
)  # fmt: skip


def _shown(name: str, value: float, unit: str) -> str:
    integral = name == "light_integral"
    if name.endswith("_s"):
        return units.format_time(value)
    if not unit:
        return f"{units.format_time(value) if integral else units.format_number(value)} of the file's unit"
    return units.format_prefixed(value, f"{unit} s" if integral else unit)


def figure_rows(result: dict[str, Any]) -> list[dict[str, str]]:
    """Each figure with its unit, its uncertainty, and its spread over the pops."""
    unit = result.get("unit") or ""
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
                "value": "not to be read"
                if value is None
                else _shown(name, value, unit),
                "fraction": units.format_fraction(value)
                if value and name[:3] in ("t05", "t01")
                else "",
                "doubt": f"± {_shown(name, result[doubt], unit)}"
                if doubt and result.get(doubt)
                else "",
                "sd": _shown(name, spread["sd"], unit)
                if spread.get("sd") is not None
                else "",
            }
        )
    return rows
