"""One row model for every kind of shutter (science §7).

Row y ∈ [0, 1] in the order of uncovering opens at y·T_c and closes at y·T_c + t_s. The sync contact closes at T_c
(at 0 for leaf and global shutters); a pulse starts L after it. Time 0 is the first row's opening, or the contact of a
global shutter.
"""

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize_scalar

from rapzel.core.document.scene import Scene
from rapzel.core.pulse.shape import Array, Plateau, Pulse
from rapzel.core.shared import constants

ROWS = 1024  # of the row model; a share of rows is exact to half of one


@dataclass(frozen=True, slots=True)
class Flash:
    """One light as the shutter meets it: its shape, when it starts [s] and its weight in the exposure."""

    pulse: Pulse
    start_s: float
    weight: float  # N² on the subject, shutter effects left out


def travel_s(scene: Scene) -> float:
    """T_c: curtain travel or readout time [s]; 0 where the whole frame is exposed at once."""
    if scene.exposure.method == "open_shutter" or scene.camera.shutter in ("leaf", "global"):
        return 0.0
    return scene.camera.curtain_travel_s


def opening_s(scene: Scene, rows: Array, offset_s: float = 0.0) -> tuple[Array, Array]:
    """When each row opens and closes [s]; `rows` in [0, 1], `offset_s` moves a global shutter."""
    begin = np.asarray(rows, dtype=float) * travel_s(scene) + offset_s
    return begin, begin + scene.exposure.shutter_s


def hss_plateau_s(scene: Scene) -> float:
    """Length of the pulse train that covers every row [s]: T_c + t_s."""
    return travel_s(scene) + scene.exposure.shutter_s


def slit_loss_stops(travel: float, shutter: float) -> float:
    """What HSS wastes on closed curtains [stops]: log2((T_c + t_s) / t_s)."""
    return math.log2((travel + shutter) / shutter)


def flash_start_s(scene: Scene) -> float:
    """When a pulse starts [s]: the sync contact plus the trigger's latency; HSS starts with the first row."""
    if scene.exposure.method == "hss":
        return 0.0
    if scene.exposure.method == "open_shutter":  # the trigger fires well inside the opening
        return scene.exposure.shutter_s / 2
    return travel_s(scene) + scene.trigger.latency_s


def row_shares(scene: Scene, flashes: list[Flash], rows: Array, offset_s: float = 0.0) -> Array:
    """Share of the lights' sum that each row records [0 … 1], weighted by what each light gives."""
    total = sum(flash.weight for flash in flashes)
    if scene.exposure.method == "open_shutter" or total == 0:
        return np.full(np.shape(rows), 1.0 if total else 0.0)
    opens, closes = opening_s(scene, rows, offset_s)
    got = np.zeros(np.shape(rows))
    for flash in flashes:
        inside = flash.pulse.cumulative(closes - flash.start_s) - flash.pulse.cumulative(opens - flash.start_s)
        got += flash.weight * inside
    return got / total


def best_offset_s(scene: Scene, flashes: list[Flash]) -> float:
    """The opening of a global shutter after the contact [s] that catches most of the light."""
    if not flashes:
        return 0.0
    earliest = min(flash.start_s for flash in flashes)
    latest = max(flash.start_s + flash.pulse.time_at_s(0.95) for flash in flashes)
    low = earliest - scene.exposure.shutter_s

    def missed(offset_s: float) -> float:
        return -float(row_shares(scene, flashes, np.array(0.0), offset_s))

    grid = np.linspace(low, latest, 400)
    caught = np.array([missed(offset) for offset in grid])
    best = int(np.argmin(caught))
    around = (grid[max(best - 1, 0)], grid[min(best + 1, len(grid) - 1)])
    return float(minimize_scalar(missed, bounds=around, method="bounded", options={"xatol": 1e-9}).x)


def _in_stops(share: float) -> float:
    darkest = 2.0**-constants.DARKEST_STOPS
    return max(0.0, -math.log2(share)) if share > darkest else constants.DARKEST_STOPS


@dataclass(frozen=True, slots=True)
class ShutterResult:
    """What the shutter does to the light, losses in stops and positive."""

    worst_row_loss_stops: float
    best_row_loss_stops: float
    dark_share: float
    fastest_safe_s: float | None
    open_window_s: float
    offset_s: float

    @property
    def best_share(self) -> float:
        """Share of the light that the best-lit row records [0 … 1]."""
        return math.exp2(-self.best_row_loss_stops)


def fastest_safe_s(scene: Scene, flashes: list[Flash]) -> float:
    """Shortest shutter that gives every row all but a tenth of a stop of every light [s].

    t_s ≥ T_c + L + the time by which 93.3 % of the light is out; a global shutter placed at its best needs only that
    time. Source: row model.
    """
    if scene.camera.shutter == "global":
        return max(flash.pulse.time_at_s(constants.TENTH_OF_A_STOP) for flash in flashes)
    return max(flash.start_s + flash.pulse.time_at_s(constants.TENTH_OF_A_STOP) for flash in flashes)


def expose(scene: Scene, flashes: list[Flash]) -> ShutterResult:
    """The row model's answer for all lights on the subject together."""
    pulsed = scene.exposure.method == "pulse" and bool(flashes)
    offset = 0.0
    if pulsed and scene.camera.shutter == "global":
        given = scene.exposure.offset_s
        offset = best_offset_s(scene, flashes) if given is None else given
    window = scene.exposure.shutter_s - travel_s(scene)
    if not pulsed:
        return ShutterResult(0.0, 0.0, 0.0, None, window, offset)
    rows = np.concatenate([[0.0], (np.arange(ROWS) + 0.5) / ROWS, [1.0]])
    shares = row_shares(scene, flashes, rows, offset)
    return ShutterResult(
        worst_row_loss_stops=_in_stops(float(shares.min())),
        best_row_loss_stops=_in_stops(float(shares.max())),
        dark_share=float(np.mean(shares[1:-1] < 0.5)),
        fastest_safe_s=fastest_safe_s(scene, flashes),
        open_window_s=window,
        offset_s=offset,
    )


def hss_pulse(scene: Scene) -> Plateau:
    """High-speed sync as the shutter meets it: a constant light over the whole curtain travel."""
    return Plateau(hss_plateau_s(scene))
