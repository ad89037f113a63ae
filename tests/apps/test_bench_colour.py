"""Grey cards on the bench: from files to the strobe's table, and nothing half-stored on the way."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from rapzel.bench import services, tasks
from rapzel.bench.models import ColourRun, State
from rapzel.demo.bench import CARD_POWERS, card, colours
from rapzel.kit.models import Strobe


def frames(count: int = 3) -> list[SimpleUploadedFile]:
    rng = np.random.default_rng(3)
    return [
        SimpleUploadedFile(f"card-{n}.jpg", card(0.01 * n, 0.0, 1.0, rng))
        for n in range(count)
    ]


FACTS = {"name": "Card", "white_balance_k": "5500", "tolerance": "1"}


def test_grey_cards_from_files_to_the_table(visitor, kit) -> None:
    strobe = Strobe.objects.get(name="Monobloc 600 quenched")
    data = {
        **FACTS,
        "frame": frames(),
        "strobe": strobe.pk,
        "mode": "speed",
        "powers": "1/1 1/4, 1/16",
    }
    assert visitor.post(reverse("bench:colours"), data).status_code == 302
    run = ColourRun.objects.get()
    tasks.run_colour(run.pk)
    run.refresh_from_db()
    assert run.state == State.DONE, run.says
    temperatures = [frame["cct_k"] for frame in run.result["frames"]]
    assert temperatures == sorted(temperatures), "made bluer from frame to frame"
    visitor.post(reverse("bench:colour_apply", args=[run.pk]))
    assert strobe.settings.get(mode="speed", power=1 / 4).cct_k == pytest.approx(
        temperatures[1], rel=1e-3
    )
    assert strobe.settings.get(mode="constant colour", power=1 / 4).cct_k is None
    assert (
        f"{temperatures[1]:.0f} K"
        in visitor.get(
            reverse("kit:edit", args=["strobes", strobe.pk])
        ).content.decode()
    )
    assert (
        visitor.get(reverse("bench:colour_csv", args=[run.pk]))
        .content.decode()
        .count("\n")
        == 4
    )


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"frame": []}, "Choose the frames first"),
        ({"frame": [SimpleUploadedFile("a.jpg", b"no picture")]}, "not a picture"),
        ({"powers": "1/2"}, "1 powers were named for 3 frames"),
        ({"powers": "loud"}, "is not a power"),
        ({"patch": "0.9,0,0.5,0.5"}, "must lie inside the frame"),
    ],
)
def test_frames_that_cannot_be_used_store_nothing(visitor, changes, says) -> None:
    answer = visitor.post(
        reverse("bench:colours"), {**FACTS, "frame": frames(), **changes}
    )
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert not ColourRun.objects.exists()


def test_a_frame_that_breaks_later_is_named(owner, kit) -> None:
    facts = {
        "name": "Card",
        "strobe": None,
        "mode": "",
        "white_balance_k": 5500.0,
        "tolerance": 1.0,
        "patch": None,
    }
    run = services.bring_in_frames(
        owner, [*frames(1), SimpleUploadedFile("z.jpg", b"\xff\xd8 broken")], facts
    )
    tasks.run_colour(run.pk)
    run.refresh_from_db()
    assert run.state == State.FAILED
    assert run.says.startswith("z.jpg: Not a picture")


def test_the_demos_bench_has_something_to_show(owner, kit) -> None:
    run = colours(owner)
    run.refresh_from_db()
    assert run.state == State.DONE
    assert len(run.result["frames"]) == 2 * len(CARD_POWERS)


def test_a_waiting_colour_run_stops_at_once(visitor, owner, kit) -> None:
    facts = {
        "name": "Card",
        "strobe": None,
        "mode": "",
        "white_balance_k": 5500.0,
        "tolerance": 1.0,
        "patch": None,
    }
    run = services.bring_in_frames(owner, frames(2), facts)
    visitor.post(reverse("bench:colour_cancel", args=[run.pk]))
    tasks.run_colour(run.pk)
    run.refresh_from_db()
    assert (run.state, run.result) == (State.CANCELLED, None)
