"""A hit of a search as a scene of its own, with what it costs."""

from dataclasses import dataclass
from typing import Any

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.gear import Light
from rapzel.core.document.places import identified
from rapzel.core.document.scene import Scene
from rapzel.core.evaluate import evaluate
from rapzel.core.search.pulses import Settings
from rapzel.core.search.ways import Way
from rapzel.core.shared.once import once

NAMES = ("Key", "Fill")  # of the one or two kinds


@dataclass(frozen=True)
class Hit:
    """One combination: the way, its dials, and its lights as (setting, how many)."""

    way: Way
    settings: Settings
    shutter_s: float
    f_number: float
    iso: float
    nd_stops: float
    distance_m: float
    loss_stops: float
    source_size_m: float
    rig: tuple[tuple[int, int], ...]
    claimed: dict[str, float | None]  # margins as the search worked them out

    @property
    def lights(self) -> int:
        """How many lights stand on the moving part."""
        return sum(count for _, count in self.rig)

    @once
    def scene(self) -> Scene:
        """The scene of this combination: everything else as it was."""
        # What is not searched, such as a light on the background, stays as the scene has it.
        base, camera_set = self.way.base, self.way.base.exposure
        exposure = camera_set.model_copy(
            update={
                "shutter_s": self.shutter_s,
                "f_number": self.f_number,
                "iso": self.iso,
                "nd_stops": self.nd_stops,
            }
        )
        return base.model_copy(
            update={"exposure": exposure, "lights": (*self._new_lights(), *base.lights)}
        )

    def _new_lights(self) -> list[Light]:
        lights: list[Light] = []
        for place, count in self.rig:
            source = self.settings.sources[int(self.settings.source[place])]
            lights.append(
                Light(
                    # Named by their place: a search makes at most two kinds.
                    name=NAMES[len(lights)],
                    power=float(self.settings.power[place]),
                    distance_m=self.distance_m,
                    loss_stops=self.loss_stops,
                    count=count,
                    source_size_m=self.source_size_m,
                    mode=source.mode or None,
                    strobe=source.strobe,
                )
            )
        return lights

    @property
    def rig_document(self) -> list[dict[str, Any]]:
        """Its lights by kind: strobe, mode, power and how many."""
        rig = []
        for place, count in self.rig:
            source = self.settings.sources[int(self.settings.source[place])]
            power = float(self.settings.power[place])
            rig.append(
                {
                    "strobe": source.strobe.name,
                    "mode": source.mode,
                    "power": power,
                    "count": count,
                }
            )
        return rig

    @property
    def needs(self) -> dict[str, Any]:
        """What has to be set, in plain numbers; no distance without lights."""
        return {
            "iso": self.iso,
            "f_number": self.f_number,
            "shutter_s": self.shutter_s,
            "nd_stops": self.nd_stops,
            "lights": self.lights,
            "distance_m": self.distance_m if self.rig else None,
            "rig": self.rig_document,
        }

    @once
    def document(self) -> dict[str, Any]:
        """The scene document."""
        # With identities, as the scene that it may become needs them.
        return identified(self.scene.to_document())

    @once
    def evaluation(self) -> Evaluation:
        # By the one door, so that the verdict of a hit is the verdict of its scene.
        return evaluate(self.document)

    @property
    def cost_of_rig(self) -> dict[str, float | None]:
        """What its lights take: how many, ISO, energy of a pop [W s], price; None where not known."""
        energy = price = 0.0
        known_energy = known_price = True
        for place, count in self.rig:
            strobe = self.settings.sources[int(self.settings.source[place])].strobe
            # A cost without one of its parts would look cheap.
            known_energy &= strobe.energy_ws is not None
            known_price &= strobe.price is not None
            energy += (
                count * (strobe.energy_ws or 0.0) * float(self.settings.power[place])
            )
            price += count * (strobe.price or 0.0)
        return {
            "lights": float(self.lights),
            "iso": self.iso,
            "energy_ws": energy if known_energy else None,
            "price": price if known_price else None,
        }

    @once
    def cost(self) -> dict[str, float | None]:
        """What it takes: its lights, and the time between frames [s]; None where not known."""
        return whole_cost(self.cost_of_rig, self.evaluation)

    def to_document(self) -> dict[str, Any]:
        """The hit as `find_settings` prints it."""
        margins = {one.name: one.value for one in self.evaluation.margins}
        return {
            "method": self.way.method.key,
            "needs": self.needs,
            "scene": self.document,
            "margins": margins,
            "states": {one.name: one.state for one in self.evaluation.margins},
            "cost": self.cost,
        }


def whole_cost(
    of_rig: dict[str, float | None], evaluation: Evaluation
) -> dict[str, float | None]:
    """What a set-up takes: its lights, and the time between frames that it sustains [s]; None where not known."""
    rate = evaluation.pace.sustained_fps
    return {**of_rig, "between_frames_s": None if rate is None else 1 / rate}
