"""The picture of a simulated shot: the subject where physics, the unit's jitter and the set's own truth put it."""

import io

from PIL import Image

from rapzel.core.document import places
from rapzel.core.document.places import Document
from rapzel.core.drops.plan import Plan, planned
from rapzel.core.drops.standing import ABOVE, USUAL_M, standing
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.collision import SideView, drawn
from rapzel.dialling.models import Shot
from rapzel.dialling.unit import TriggerUnitError, figure
from rapzel.workbench import pictures
from rapzel.workbench.answer import Answer, answered

Picture = tuple[bytes, str]


def picture_of(shot: Shot) -> Picture | None:
    """Image bytes and their content type; None of a shot that did not fire, or whose set nobody simulates."""
    if not shot.fired or "rig_late_s" not in shot.report:
        return None
    try:
        late, flash = (
            figure(shot.report, "rig_late_s") or 0.0,
            figure(shot.report, "flash_s") or 0.0,
        )
    except TriggerUnitError:
        return None
    # The unit fired and no light answered: the frame is dark, as it would be.
    if shot.report.get("answered") == "no":
        return _dark()
    answer = answered(shot.document)
    # How late the set is, less by how much the unit's own jitter made the light later.
    sooner = late - (flash - float(shot.sent.get("delay_s") or 0.0))
    if answer.physics.scene.drops is not None:
        return _collision(answer, shot, sooner)
    return pictures.rehearsal(answered(displaced(answer.document, sooner)))


def wanted_of(answer: Answer) -> Picture:
    """What the picture should look like: the plan with the light at its instant."""
    physics = answer.physics
    needed = physics.timing.needed_delay_s
    document: Document = answer.document
    if needed is not None and needed > 0:
        # Wanted is the plan as it should be, not as it is set.
        document = places.changed(document, {"trigger.set_delay_s": needed})
    planned_answer = answered(document)
    drops, light = (
        physics.scene.drops,
        planned_answer.physics.timing.flash_after_event_s,
    )
    if drops is None or light is None:
        return pictures.rehearsal(planned_answer, size="small")
    plan = planned(drops.model_copy(update={"second_set_s": None}))
    if plan.solved is None:
        second = None
    else:
        second = plan.solved.second_release_s
    return _encoded(
        Image.fromarray(drawn(side_view(plan, physics, second, light), width=288))
    )


def displaced(document: Document, later_s: float) -> Document:
    """The plan in which the subject is so much later in its place: what the light finds when the set is late."""
    at = places.get(document, "moment.at_s")
    if at is not None:
        return places.changed(document, {"moment.at_s": at + later_s})
    # Without a stated moment the light comes so much sooner instead: the same picture.
    sooner = float(places.get(document, "trigger.set_delay_s", 0.0)) - later_s
    return places.changed(document, {"trigger.set_delay_s": max(sooner, 0.0)})


def _dark() -> Picture:
    # Not quite black: a sensor in the dark has noise.
    return _encoded(Image.new("L", (960, 640), 6))


def _encoded(image: Image.Image) -> Picture:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=88)
    return out.getvalue(), "image/jpeg"


def _collision(answer: Answer, shot: Shot, late_s: float) -> Picture:
    """Jet and drops from the side, with the second drop as late as the set made it."""
    physics = answer.physics
    drops = physics.scene.drops
    assert drops is not None
    second = figure(shot.report, "second_s")
    if second is not None:
        # The valve's own truth, which no plan knows.
        second += figure(shot.report, "rig_second_late_s") or 0.0
    light = physics.timing.flash_after_event_s
    at = (drops.valve_lag_s if light is None else light) - late_s
    view = side_view(planned(drops), physics, second, at)
    return _encoded(Image.fromarray(drawn(view)))


def side_view(
    plan: Plan, physics: Physics, second_s: float | None, at_s: float
) -> SideView:
    """What stands in the scene's frame at an instant, with the second drop told to go at a time; None: no second."""
    size, frame, now = (
        plan.diameter_m or USUAL_M,
        physics.frame,
        standing(plan, second_s, at_s),
    )
    above = plan.asked.frame_above_m
    return SideView(
        frame.field_width_m,
        frame.field_height_m,
        frame.field_height_m * ABOVE if above is None else above,
        now.jet_m,
        size * 0.6,
        [
            (height, size)
            for height in (now.first_m, now.second_m)
            if height is not None
        ],
        size * 2 * now.crater,
        None if now.met is None else (now.met.height_m, now.met_for_s),
    )
