"""The invented world of the demo: Saltmarsh Yard's season brochure, shot in one week."""

import copy
import random
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone

from rapzel.core.document.places import changed
from rapzel.demo.bench import build_bench
from rapzel.demo.scenes import SCENES
from rapzel.dialling import services as dialling
from rapzel.dialling.state import Dialling
from rapzel.kit.models import Camera, Strobe
from rapzel.kit.services import copy_starter_kit, take_figures
from rapzel.practice.models import Drill
from rapzel.shoots import services
from rapzel.shoots.models import Scene, Shoot
from rapzel.takes.models import Take
from rapzel.takes.offsets import late_s
from rapzel.takes.services import plan_changes
from rapzel.workbench.answer import answered

DEMO_USER = "demo"
SEED = 1923
ZONE = "Europe/London"  # of the yard on the tidal river
# Invented: the starter kit names none, since what a light costs is the owner's to say.
PRICES = {
    "Monobloc 600 quenched": 780.0,
    "Hot-shoe 60": 260.0,
    "Bank pack 2400": 2900.0,
    "Old voltage monobloc 500": 180.0,
}
# The lights that the Yard's photographer has metered.
METERED = ("Monobloc 600 quenched", "Hot-shoe 60")


def document_of(owner: Any, plan: dict[str, Any]) -> dict[str, Any]:
    """A scene document from a plan that names its camera and strobes from the kit."""
    plan = copy.deepcopy(plan)
    camera = Camera.objects.visible_to(owner).get(name=plan.pop("camera"))
    lights = []
    for light in plan.pop("lights"):
        strobe = Strobe.objects.visible_to(owner).get(name=light.pop("strobe"))
        lights.append({**light, "strobe": strobe.to_core()})
    return {
        "format": "rapzel.scene",
        "version": 2,
        **plan,
        "camera": camera.to_core(),
        "lights": lights,
    }


def _log(scene: Scene, tries: list[tuple[Any, ...]], begin: datetime) -> None:
    """Takes as they would have been logged: each with the values that stood before the plan became what it is."""
    rng = random.Random(SEED + scene.position)
    takes: list[Take] = []
    for number, (outcome, values, note, *off) in enumerate(tries, start=1):
        document = changed(scene.document, values)
        if takes:
            said = plan_changes(takes[-1].document, document)
        else:
            said = ""
        takes.append(
            Take(
                scene=scene,
                number=number,
                outcome=outcome,
                changed=said,
                note=note,
                late_s=late_s(off[0], outcome, document) if off else None,
                document=document,
            )
        )
    Take.objects.bulk_create(takes)
    # the clock of the log is set by the database, so it is put back afterwards
    for take in takes:
        begin += timedelta(seconds=rng.randint(35, 150))
        take.at = begin
    Take.objects.bulk_update(takes, ["at"])


def _dial_in(scene: Scene, begin: datetime) -> None:
    """A dial-in of Wednesday morning: the flash's delay from 9 ms early to where the plan has it."""
    right = scene.document["trigger"]["set_delay_s"]
    services.change_scene(
        scene, {"trigger.set_delay_s": right - 0.009}, "a first guess"
    )
    dial_in, rng = (
        dialling.begin(scene, "trigger.set_delay_s", by_eye=False),
        random.Random(SEED),
    )
    while True:
        state = Dialling(dial_in, scene, answered(scene.document))
        if state.found and state.found.converged:
            break
        off = scene.document["trigger"]["set_delay_s"] - right + rng.gauss(0, 0.0007)
        if abs(off) < 0.0015:
            told = "on"
        elif off < 0:
            told = "early"
        else:
            told = "late"
        take = dialling.record(state, dialling.Judgement(told)).take
        begin += timedelta(seconds=rng.randint(40, 110))
        Take.objects.filter(pk=take.pk).update(at=begin)
    dialling.leave(scene)
    services.change_scene(scene, {"trigger.set_delay_s": right}, "the plan's own delay")


def _practise(owner: Any) -> None:
    """Four mornings of drills up to yesterday, the finger growing steadier."""
    today = timezone.now().replace(hour=9, minute=10, second=0, microsecond=0)
    rng = random.Random(SEED)
    for day, (bias, spread) in enumerate(
        ((0.034, 0.042), (0.022, 0.036), (0.015, 0.028), (0.012, 0.022))
    ):
        errors = [round(rng.gauss(bias, spread), 4) for _ in range(12)]
        at = today + timedelta(days=day - 5)
        Drill.objects.create(owner=owner, what="leap", errors_s=errors, at=at)
    reactions = [round(rng.gauss(0.214, 0.026), 4) for _ in range(11)]
    Drill.objects.create(
        owner=owner,
        what="lamp",
        errors_s=[*reactions, 0.61],
        at=today - timedelta(days=1),
    )


@transaction.atomic
def build(bench: bool = False) -> bool:
    """Makes the demo account and its world; False when the account is there already.

    bench: also what its bench has measured, which takes some seconds.
    """
    users = get_user_model()
    if users.objects.filter(username=DEMO_USER).exists():
        return False
    owner = users(username=DEMO_USER)
    owner.set_unusable_password()
    owner.save()
    copy_starter_kit(owner)
    for name, price in PRICES.items():
        take_figures(Strobe.objects.get(owner=owner, name=name), {"price": price})
    for strobe in Strobe.objects.filter(owner=owner, name__in=METERED):
        take_figures(strobe, {"guide_provenance": "measured"})
    monday = datetime(2027, 5, 10, 9, 0, tzinfo=ZoneInfo(ZONE))
    shoot = Shoot.objects.create(
        owner=owner,
        name="Season brochure",
        client="Saltmarsh Yard",
        zone=ZONE,
        place="Arts and sport centre on the tidal river, hall and yard",
        starts_at=monday,
        ends_at=monday + timedelta(days=4, hours=8),
        people="Fencer, two rope skippers, gymnast, archer, range officer, candle maker, assistant",
        notes="Hall is ours from nine to noon. The yard stays open to visitors: battery lights, held.",
    )
    for each in SCENES:
        plan = dict(each)
        tries, pins = plan.pop("takes", []), plan.pop("pins", [])
        scene = services.add_scene(shoot, document_of(owner, plan))
        for name, values in pins:
            scene.snapshots.create(name=name, document=changed(scene.document, values))
        _log(scene, tries, monday + timedelta(hours=scene.position))
        if scene.document["drops"]:
            _dial_in(scene, monday + timedelta(days=2))
    _practise(owner)
    if bench:
        build_bench(owner)
    return True
