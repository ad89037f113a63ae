"""The verbs of the bench. A file is stored only once it is recognised; figures reach the kit only when asked to."""

import math
from statistics import fmean
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import Sum
from django.utils import timezone

from rapzel.bench import keeper, tasks
from rapzel.bench.models import BUSY, ColourFrame, ColourRun, State, Trace
from rapzel.core.colour.grey_card import LARGEST_FRAME, FrameError
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.units import format_time
from rapzel.core.trace import Layout, recognise
from rapzel.core.trace.measuring.result import TraceResult
from rapzel.core.trace.reading.layout import HEAD_BYTES
from rapzel.core.trace.reading.samples import LARGEST_FILE, TraceError
from rapzel.kit import services as kit
from rapzel.kit.models import Strobe
from rapzel.ui.quota import require_room


@transaction.atomic
def bring_in(owner: Any, upload: UploadedFile | None) -> Trace:
    """Stores a recording with the layout that was recognised. Raises TraceError, and then stores nothing."""
    if upload is None:
        raise TraceError("Choose a file first: CSV, TSV, TXT or WAV.")
    if (upload.size or 0) > LARGEST_FILE:
        raise TraceError(
            f"{upload.name} has {(upload.size or 0) / 2**20:.0f} MB; up to 100 MB are read."
        )
    _require_room(owner, upload.size or 0)
    # Recognised before it is stored: what is no recording leaves no file behind.
    layout = recognise(upload.read(HEAD_BYTES))
    upload.seek(0)
    name = (upload.name or "Trace").rsplit("/", 1)[-1].rsplit(".", 1)[0][
        :120
    ] or "Trace"
    return Trace.objects.create(
        owner=owner,
        name=name,
        file=upload,
        size=upload.size or 0,
        layout=layout.model_dump(mode="json"),
    )


def _require_room(owner: Any, size: int) -> None:
    """Raises QuotaFull where the owner's recordings, those put away included, leave no room for one more."""
    own = Trace.objects.filter(owner=owner)
    require_room("recordings", own.filter(deleted_at__isnull=True).count())
    have = own.aggregate(all=Sum("size"))["all"] or 0
    # What was put away still fills the disk, so that it counts here.
    require_room("megabytes of recordings", have // 2**20, size // 2**20)


def read_again(trace: Trace, way: str) -> Trace:
    """Recognises the file anew with another delimiter or decimal sign. Raises TraceError, and then nothing changes."""
    with trace.file.open("rb") as file:
        # The head of a file says how it is built; the rest is read in the background.
        layout = recognise(file.read(HEAD_BYTES), way)
    trace.layout = layout.model_dump(mode="json")
    trace.save(update_fields=["layout"])
    return trace


@transaction.atomic
def confirm(
    trace: Trace, layout: Layout, channel: int | None, target: dict[str, Any]
) -> Trace:
    """Takes the confirmed layout and what was measured (strobe, mode, power), and queues the measuring."""
    locked = Trace.objects.select_for_update(of=("self",)).get(pk=trace.pk)
    # Two presses of one button queue one job.
    if locked.busy:
        return locked
    locked.layout, locked.channel = layout.model_dump(mode="json"), channel
    locked.strobe, locked.mode, locked.power = (
        target.get("strobe"),
        target.get("mode", ""),
        target.get("power"),
    )
    # A second measuring forgets what the first one said.
    locked.state, locked.progress, locked.says, locked.cancel_asked = (
        State.QUEUED,
        0,
        "",
        False,
    )
    locked.asked_at = timezone.now()
    locked.save()
    # In the transaction: a job for a row that was never stored would find nothing.
    tasks.measure.defer(trace_id=locked.pk)
    return locked


def cancel(row: Trace | ColourRun) -> None:
    """Asks the background to stop; what has not begun, and what nobody works on any more, stops at once."""
    own = type(row).objects.filter(pk=row.pk)
    # One update and no save: the worker writes its progress into the same row.
    own.filter(state__in=BUSY).update(cancel_asked=True)
    own.filter(state=State.QUEUED).update(state=State.CANCELLED)
    # A worker that died will not hear that it should stop.
    if not keeper.works_on(row):
        own.filter(state=State.RUNNING).update(state=State.CANCELLED)


def measured_row(trace: Trace) -> dict[str, Any]:
    """The row of a duration table that the trace amounts to. Raises DocumentError where it must not become one."""
    if trace.state != State.DONE or trace.result is None:
        raise DocumentError([Problem("", "the trace has not been measured yet")])
    # A duration without its setting has no row that it could go to.
    if trace.strobe is None or not trace.power:
        raise DocumentError(
            [Problem("", "say first which strobe this was, at which power")]
        )
    # A clipped or torn pop is in the statistics with its warning, and never in a table.
    usable = [pop for pop in _pops(trace) if pop.usable]
    if not usable:
        raise DocumentError([Problem("", "no pop of it can be used: see its warnings")])
    # A pop may have a t.5 and no t.1, where its tail was cut off.
    t05 = [known for pop in usable if (known := pop.durations_s[0]) is not None]
    t01 = [known for pop in usable if (known := pop.durations_s[1]) is not None]
    return {
        "mode": trace.mode,
        "power": trace.power,
        "t01_s": fmean(t01) if t01 else None,
        "t05_s": fmean(t05),
        "provenance": "measured",
    }


def _pops(trace: Trace) -> list[TraceResult]:
    return [
        TraceResult.model_validate(pop) for pop in (trace.result or {}).get("pops", [])
    ]


def is_usable(trace: Trace) -> bool:
    """Whether at least one pop of a measured trace may go into a table."""
    return any(pop.usable for pop in _pops(trace))


def _with_relative_light(traces: list[Trace], rows: list[dict[str, Any]]) -> None:
    """Light of each setting against full power [stops], where a full-power trace of the mode is among them.

    Sound only while detector and strobe stood still between the traces, which is why one batch is needed.
    """
    # Light against full power needs one trace at full power; nothing is assumed without it.
    full = {
        trace.mode: trace.result["light_integral"]
        for trace in traces
        if trace.power == 1.0
        and trace.result
        and (trace.result["light_integral"] or 0) > 0
    }
    for trace, row in zip(traces, rows, strict=True):
        light = (trace.result or {}).get("light_integral")
        if trace.mode in full and light and light > 0:
            row["light_stops"] = math.log2(light / full[trace.mode])


# of any flash; outside it a unit was misread as a rule (common practice)
USUAL_T01_S = (5e-6, 50e-3)


def unusual(trace: Trace) -> str:
    """What to ask before a duration that hardly any flash has goes into a table; nothing for a usual one."""
    t01 = (trace.result or {}).get("t01_s")
    if t01 is None or USUAL_T01_S[0] <= t01 <= USUAL_T01_S[1]:
        return ""
    if t01 < USUAL_T01_S[0]:
        how = "shorter"
    else:
        how = "longer"
    return (
        f"A t.1 of {format_time(t01)} is {how} than that of nearly any flash. Is the unit of the time column right? "
        "Say that it is, to apply it all the same."
    )


@transaction.atomic
def apply(traces: list[Trace], sure: bool = False) -> Strobe:
    """Puts the measurements into their strobe's table; they replace earlier measurements at the same power.

    All of the traces or none: raises DocumentError with every reason why one cannot be used. A duration that hardly
    any flash has is taken only when the person is `sure`.
    """
    problems, rows = [], []
    for trace in traces:
        try:
            # All reasons are collected: one at a time would be told one press at a time.
            rows.append(measured_row(trace))
            if not sure and (question := unusual(trace)):
                raise DocumentError([Problem("", question)])
        except DocumentError as error:
            problems += [
                Problem(trace.name, problem.reason) for problem in error.problems
            ]
    # Undo takes one table back; two at once would need two.
    if len({trace.strobe_id for trace in traces}) > 1:
        problems.append(
            Problem(
                "",
                "these traces belong to more than one strobe; apply them one strobe at a time",
            )
        )
    if problems or not traces:
        raise DocumentError(problems or [Problem("", "choose at least one trace")])
    strobe = traces[0].strobe
    assert strobe is not None, "held by measured_row"
    # Here, where the traces of one sitting are together.
    _with_relative_light(traces, rows)
    kit.merge_settings(
        strobe, rows, f"measurements: {', '.join(trace.name for trace in traces)}"[:200]
    )
    return strobe


MOST_FRAMES = 200


@transaction.atomic
def bring_in_frames(
    owner: Any, files: list[UploadedFile], facts: dict[str, Any]
) -> ColourRun:
    """Stores frames of a grey card as one run and queues their measuring.

    facts: name, strobe, mode, white_balance_k, tolerance, powers (one for each frame, or none), patch. Raises
    FrameError, and then stores nothing.
    """
    powers = facts.get("powers") or []
    require_room("runs of grey cards", ColourRun.objects.visible_to(owner).count())
    if not files:
        raise FrameError(
            "Choose the frames first: JPEG, PNG or TIFF, a whole folder at once if you like."
        )
    if len(files) > MOST_FRAMES:
        raise FrameError(
            f"{len(files)} frames are too many at once; up to {MOST_FRAMES} are taken."
        )
    if powers and len(powers) != len(files):
        raise FrameError(
            f"{len(powers)} powers were named for {len(files)} frames; name one for each, or none."
        )
    # Cameras number their frames, and powers were named in that order.
    files = sorted(files, key=lambda upload: upload.name or "")
    for upload in files:
        if (upload.size or 0) > LARGEST_FRAME:
            raise FrameError(f"{upload.name} is larger than 60 MB.")
        # By its first bytes: an ending says what somebody called it.
        if upload.read(4)[:2] not in (b"\xff\xd8", b"\x89P", b"II", b"MM"):
            raise FrameError(
                f"{upload.name} is not a picture that can be read. Accepted: JPEG, PNG, TIFF."
            )
        upload.seek(0)
    own = {
        key: facts[key]
        for key in ("name", "strobe", "mode", "white_balance_k", "tolerance", "patch")
    }
    run = ColourRun.objects.create(
        owner=owner, state=State.QUEUED, asked_at=timezone.now(), **own
    )
    for number, upload in enumerate(files):
        name = (upload.name or "frame").rsplit("/", 1)[-1][:120]
        if powers:
            power = powers[number]
        else:
            power = None
        ColourFrame.objects.create(run=run, file=upload, name=name, power=power)
    tasks.measure_colour.defer(run_id=run.pk)
    return run


@transaction.atomic
def apply_colour(run: ColourRun) -> Strobe:
    """Puts the mean colour at each power into the rows that the strobe has for it. Raises DocumentError."""
    if run.state != State.DONE or run.result is None or run.strobe is None:
        raise DocumentError(
            [Problem("", "a measured run of a strobe in your kit is needed")]
        )
    by_power: dict[float, list[dict[str, Any]]] = {}
    for frame in run.result["frames"]:
        if frame["power"]:
            # A frame without a power tells of evenness, and of no row.
            by_power.setdefault(frame["power"], []).append(frame)

    def write(rows: kit.Rows) -> kit.Rows:
        met = [
            row
            for row in rows
            if row["mode"] == run.mode and _set_colour(row, by_power)
        ]
        # Colours that reach no row would be applied to nothing, and look stored.
        if not met:
            none = "no setting of the strobe has the mode and one of the powers of these frames"
            raise DocumentError([Problem("", none)])
        return rows

    kit.rewrite_table(run.strobe, write, f"colours: {run.name}"[:200])
    return run.strobe


def _set_colour(
    row: dict[str, Any], by_power: dict[float, list[dict[str, Any]]]
) -> bool:
    """Sets the mean colour of the frames at the row's power; False where there are none."""
    frames = next(
        (
            own
            for power, own in by_power.items()
            # Two percent is about a thirtieth of a stop: the same setting, typed otherwise.
            if abs(power / row["power"] - 1) < 0.02
        ),
        None,
    )
    if frames is None:
        return False
    # mired are what averages
    row["cct_k"] = 1e6 / fmean(1e6 / frame["cct_k"] for frame in frames)
    row["duv"] = fmean(frame["duv"] for frame in frames)
    return True
