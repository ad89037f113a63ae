"""Two drops that meet in mid-air: when the second valve opens and when the light comes (science §14)."""

from typing import Any

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.drops.asked import Drops
from rapzel.core.drops.plan import Plan, planned
from rapzel.core.tools.drops_answer import DropsAnswered, solve
from rapzel.core.tools.drops_words import lists, says
from rapzel.core.tools.tool import Tool
from rapzel.core.trigger.links import Valve
from rapzel.core.verdict.timing_fixes import with_delay

# What a scene says elsewhere, or what is only looked at.
_OF_THE_SCENE = {"frame_width_m", "frame_height_m", "flash_lag_s", "shown_s"}


def _valves(scene: Scene) -> list[tuple[int, Valve]]:
    """The valves of the chain, with their places in it."""
    return [
        (place, link)
        for place, link in enumerate(scene.trigger.links)
        if isinstance(link, Valve)
    ]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """What the scene holds of its drops, with its frame, its unit's steps and its flash's lag."""
    given: dict[str, Any] = {}
    if scene.drops is not None:
        given = scene.drops.model_dump(mode="json")
    # A chain with a valve and no drops yet: its lag is where the tool begins.
    elif _valves(scene):
        given["valve_lag_s"] = sum(link.lag_s or 0.0 for _, link in _valves(scene))
    frame = evaluation.framing
    given |= {
        "resolution_s": scene.trigger.resolution_s or given.get("resolution_s", 0.0),
        "frame_width_m": frame.field_width_m,
        "frame_height_m": frame.field_height_m,
        # What was looked at last time belongs to no plan.
        "shown_s": None,
    }
    if scene.trigger.latency_s is not None:
        given["flash_lag_s"] = scene.trigger.latency_s
    return given


def to_scene(scene: Scene, asked: Drops) -> dict[str, Any]:
    """The drops as the scene's own; where they meet also the light's instant, its delay, and the second one's fall.

    The valves' lag stands in the drops from then on, since all of their times count from the command.
    """
    plan = planned(asked)
    kept = asked.model_dump(mode="json", exclude=_OF_THE_SCENE)
    values: dict[str, Any] = {"drops": kept}
    # (or the lag would be counted twice)
    values |= {f"trigger.links[{place}].lag_s": 0.0 for place, _ in _valves(scene)}
    if plan.light_s is None or plan.meeting is None:
        return values
    values["moment.at_s"] = plan.light_s
    # What is lit is where the two meet: the subject falls from the second valve to there.
    if scene.motion.kind == "fall":
        values["motion.height_m"] = plan.second.height_m - plan.meeting.height_m
    with_it = with_delay(scene, values)
    if with_it is None:
        return values
    return with_it


def table(asked: Drops) -> tuple[list[str], list[list[float]]]:
    """The heights of drops and jet [m] over time [s], from the command to the first valve."""
    plan = planned(asked)
    if plan.meeting:
        release = plan.meeting.second_release_s
    else:
        release = plan.coarse_second_s
    end = ends_s(plan)
    rows = []
    for place in range(121):
        at = end * place / 120
        rows.append(
            [
                at,
                plan.first.at(at)[0],
                plan.second.at(at - release)[0],
                plan.jet.height_m(at) if plan.jet else 0.0,
            ]
        )
    return ["time_s", "first_drop_m", "second_drop_m", "jet_m"], rows


def ends_s(plan: Plan) -> float:
    """The end of what is worth showing [s]: a little after the light, else after a usual jet."""
    if plan.light_s is not None and plan.meeting is not None:
        return max(plan.light_s, plan.meeting.at_s) * 1.06
    if plan.jet:
        last = plan.jet.falls_back_s
    else:
        last = plan.coarse_second_s + plan.second.impact_s
    return last * 1.02


DROPS = Tool(
    slug="drops",
    title="Drops that meet",
    purpose="A drop raises a jet, a second one meets it: when does each valve open, and when does the light come?",
    asks=Drops,
    answers=DropsAnswered,
    beginning={
        "valve_height_m": 0.35,
        "diameter_m": 0.0045,
        "meet_height_m": 0.06,
        "resolution_s": 0.0001,
        "valve_sd_s": 0.0005,
        "aside_sd_m": 0.0008,
        "frame_width_m": 0.15,
        "frame_height_m": 0.1,
        "observations": [
            {"flash_delay_s": 0.360, "height_m": 0.0415},
            {"flash_delay_s": 0.385, "height_m": 0.0632},
            {"flash_delay_s": 0.420, "height_m": 0.0812},
        ],
    },
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
    lacks=lambda scene: "" if scene.drops else "this scene has no drops that meet yet",
    to_scene=to_scene,
)
