"""Above the sync speed with high-speed sync off: answered as set, and as the body will really do it."""

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from tests.plans import LUNGE

FAST = {
    "exposure.shutter_s": 1 / 1000,
    "ambient.ev100": 8.0,
    "camera.fastest_shutter_s": 1 / 8000,
}


def test_freeze_and_ghost_are_told_for_the_shutter_that_is_really_used() -> None:
    set_so = evaluate(changed(LUNGE, FAST))
    really = evaluate(
        changed(LUNGE, {**FAST, "exposure.shutter_s": LUNGE["camera"]["sync_speed_s"]})
    )
    told = next(one for one in set_so.warnings if "fall back" in one)
    assert f"freeze {really.margin('freeze').says}" in told
    assert f"ghost {really.margin('ghost').says}" in told
    assert set_so.margin("ghost").says != really.margin("ghost").says
    assert not any("fall back" in one for one in really.warnings)
