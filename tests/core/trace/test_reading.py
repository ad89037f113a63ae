"""Files as scopes, loggers and sound cards write them; and files that are nothing of the kind."""

import io
import json
import zipfile

import numpy as np
import pytest
from django.core.management import call_command
from django.core.management.base import CommandError
from scipy.io import wavfile

from rapzel.core.trace import analyse_recording, read, recognise
from rapzel.core.trace.reading import reading, tables
from rapzel.core.trace.reading.layout import HEAD_BYTES
from rapzel.core.trace.reading.samples import TraceError
from simulators.light import Settings, fitting, series, to_csv

SETTINGS = fitting(Settings(power=1 / 16))
TRACE = series(SETTINGS, 1)[0]
T05 = TRACE.shape.width_s(0.5)
ROWS = list(zip(TRACE.times_s, TRACE.light_v, strict=True))
DT = 1 / SETTINGS.sampling_hz


def loaded(data: bytes, **changes):
    layout = recognise(data[:HEAD_BYTES])
    return read(data, layout.model_copy(update=changes) if changes else layout)


def table(header: str, row, encoding: str = "utf-8") -> bytes:
    return (header + "\n".join(row(t, v) for t, v in ROWS) + "\n").encode(encoding)


def comma(value: float) -> str:
    return f"{value:.9g}".replace(".", ",")


FILES = {
    "comma, header with units": table("Time (s),CH1 (V)\n", lambda t, v: f"{t:.9g},{v:.6g}"),
    "semicolon, decimal comma, milliseconds": table(
        "Zeit [ms];Kanal A [mV]\n", lambda t, v: f"{comma(t * 1e3)};{comma(v * 1e3)}"
    ),
    "tab, microseconds, units in their own line": table(
        "Time\tCH1\n(µs)\t(V)\n", lambda t, v: f"{t * 1e6:.9g}\t{v:.6g}"
    ),
    "latin-1, quotes": table('"Time (µs)","CH1 (V)"\n', lambda t, v: f"{t * 1e6:.9g},{v:.6g}", "latin-1"),
    "names that end in their unit": table("time_us,light_mV\n", lambda t, v: f"{t * 1e6:.9g},{v * 1e3:.6g}"),
    "utf-16": table("Time (s),CH1 (V)\n", lambda t, v: f"{t:.9g},{v:.6g}", "utf-16"),
    "spaces, no header": table("", lambda t, v: f"  {t:.9e}   {v:.6e}"),
    "preamble, two channels": table(
        'Model,Anything\nRecord length,8000\nNote,"a, b"\n\nTIME,CH1,CH2\n',
        lambda t, v: f"{t:.9g},{v:.6g},{0.1 * v + 1:.6g}",
    ),
    "interval in the preamble, one column": table(
        f"Sample interval: {DT * 1e6:.9g} us\nVoltage (V)\n", lambda t, v: f"{v:.6g}"
    ),
    "rate in the preamble, numbered samples": table(
        f"Sampling rate,{SETTINGS.sampling_hz / 1e6:.9g},MHz\nFS {SETTINGS.sampling_hz / 1e6:.9g} MHz\nindex,V\n",
        lambda t, v: f"{round((t - TRACE.times_s[0]) / DT)},{v:.6g}",
    ),
    "a delimiter at the end of each line": table("s,V,\n", lambda t, v: f"{t:.9g},{v:.6g},"),
    "windows line ends": table("s,V\n", lambda t, v: f"{t:.9g},{v:.6g}").replace(b"\n", b"\r\n"),
}  # fmt: skip


@pytest.mark.parametrize("name", FILES)
def test_the_same_pulse_comes_out_of_every_dialect(name: str) -> None:
    recording = loaded(FILES[name])
    assert len(recording.segments) == 1
    assert recording.segments[0].count == len(ROWS)
    assert recording.segments[0].dt_s == pytest.approx(DT, rel=1e-6)
    found = analyse_recording(recording, 0, fit=False)
    assert found.mean("t05_s") == pytest.approx(T05, rel=0.02)
    assert found.mean("peak") == pytest.approx(float(TRACE.light_v.max()), rel=0.03), (
        "in volts, whatever the file's unit"
    )


def test_names_and_roles_are_recognised() -> None:
    layout = recognise(FILES["preamble, two channels"])
    assert [(c.name, c.role) for c in layout.columns] == [
        ("TIME", "time"),
        ("CH1", "value"),
        ("CH2", "value"),
    ]
    assert layout.first_row == 5
    german = recognise(FILES["semicolon, decimal comma, milliseconds"])
    assert (german.delimiter, german.decimal) == (";", ",")
    assert [c.scale for c in german.columns] == [1e-3, 1e-3]


@pytest.mark.parametrize("parted", ["blank", "header", "column", "reset"])
def test_sweeps_are_parted(parted: str) -> None:
    sweeps = series(SETTINGS, 3)
    lines: list[str] = ["segment,s,V" if parted == "column" else "s,V"]
    for number, sweep in enumerate(sweeps):
        if number and parted == "blank":
            lines.append("")
        if number and parted == "header":
            lines += ["", "s,V"]
        own = f"{number + 1}," if parted == "column" else ""
        lines += [
            f"{own}{t:.9g},{v:.6g}"
            for t, v in zip(sweep.times_s, sweep.light_v, strict=True)
        ]
    recording = loaded("\n".join(lines).encode())
    assert [segment.count for segment in recording.segments] == [8000] * 3
    found = analyse_recording(recording, fit=False)
    assert len(found.pops) == 3
    assert found.warnings == []


def test_the_simulators_own_file_and_its_detector() -> None:
    recording = loaded(to_csv(series(SETTINGS, 2), SETTINGS).encode())
    assert recording.channels == ("Light", "Trigger")
    assert len(recording.segments) == 2
    assert recording.detector_s == pytest.approx(
        1 / (2 * np.pi * SETTINGS.bandwidth_hz), rel=1e-3
    )


@pytest.mark.parametrize("dtype", [np.int16, np.int32, np.float32, np.uint8])
def test_a_sound_card(dtype) -> None:
    rate = 192_000
    t = (np.arange(rate // 10) - 2000) / rate
    wave = np.where(t >= 0, np.exp(-np.maximum(t, 0) / 0.002), 0.0) * 0.8
    full = {np.int16: 2**15 - 1, np.int32: 2**31 - 1, np.float32: 1.0, np.uint8: 127}[
        dtype
    ]
    out = io.BytesIO()
    samples = (wave * full + (128 if dtype is np.uint8 else 0)).astype(dtype)
    wavfile.write(
        out,
        rate,
        np.column_stack(
            [np.full_like(samples, 128 if dtype is np.uint8 else 0), samples]
        ),
    )
    recording = loaded(out.getvalue())
    assert recording.channels == ("Left", "Right")
    found = analyse_recording(recording, fit=False)
    assert found.channel == "Right"
    assert found.mean("t05_s") == pytest.approx(0.002 * np.log(2), rel=0.03)


def test_uneven_times_are_put_on_a_grid_and_told() -> None:
    t = np.arange(4000) * 1e-6 + np.random.default_rng(1).uniform(-3e-7, 3e-7, 4000)
    t[0], t[-1] = 0.0, 3999e-6
    v = np.where(t > 5e-4, np.exp(-(t - 5e-4) / 3e-4), 0.0)
    recording = loaded(
        (
            "s,V\n" + "\n".join(f"{a:.9g},{b:.6g}" for a, b in zip(t, v, strict=True))
        ).encode()
    )
    assert "not evenly spaced" in recording.notes[0]
    assert analyse_recording(recording, fit=False).mean("t05_s") == pytest.approx(
        3e-4 * np.log(2), rel=0.01
    )


def zip_bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("trace.csv", b"0" * 20_000_000)
    return out.getvalue()


HOSTILE = {
    "empty": (b"", "empty"),
    "blank": (b"\n\n   \n", "empty"),
    "binary": (bytes(range(256)) * 100, "not text"),
    "zip bomb renamed": (zip_bomb(), "not text"),
    "one line": (b"0.1,0.2\n", "Only 1 line holds numbers"),
    "prose": (b"Dear all,\nthe meeting is at nine.\n" * 50, "Only 0 lines hold numbers"),
    "mixed columns": (b"s,V\n" + b"1,2\n2,3\n3,4\n" * 20 + b"4,5,6\n", "where 2 numbers were expected"),
    "a word in a cell": (b"s,V\n" + b"".join(b"%d,1\n" % n for n in range(50)) + b"50,oops\n", "oops"),
    "NaN": (b"s,V\n" + b"".join(b"%d,1\n" % n for n in range(50)) + b"50,NaN\n51,1\n", "not a finite number"),
    "huge numbers": (b"s,V\n" + b"".join(b"%d,1e30\n" % n for n in range(50)), "no instrument reads that far"),
    "overflowing numbers": (b"s,V\n" + b"".join(b"%d,1e999\n" % n for n in range(50)), "finite number"),
    "time stands still": (b"s,V\n" + b"1,2\n" * 50, "does not run on"),
    "no time": (b"V\n" + b"".join(b"%d\n" % (n % 7) for n in range(50)), "Neither a time column nor the interval"),
    "riff without sound": (b"RIFF\x10\x00\x00\x00WAVEjunk", "WAV file cannot be read"),
    "too few": (b"s,V\n1,1\n2,2\n3,3\n", "at least 8"),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused_in_words(name: str, tmp_path) -> None:
    data, says = HOSTILE[name]
    with pytest.raises(TraceError, match=says):
        loaded(data)
    path = tmp_path / "file.csv"
    path.write_bytes(data)
    with pytest.raises(CommandError, match=says):
        call_command("analyse_trace", str(path))


def test_too_large_a_file_is_refused_before_it_is_read(tmp_path) -> None:
    path = tmp_path / "huge.csv"
    with path.open("wb") as file:
        file.write(b"s,V\n1,2\n2,3\n3,4\n4,5\n")
        file.truncate(101 * 2**20)
    layout = recognise(b"s,V\n1,2\n2,3\n3,4\n4,5\n")
    with pytest.raises(TraceError, match="up to 100 MB are read"):
        read(path, layout)


def test_too_many_samples_are_refused(monkeypatch) -> None:
    for part in (reading, tables):
        monkeypatch.setattr(part, "MOST_SAMPLES", 5000)
    with pytest.raises(
        TraceError, match="The file has 8000 samples; up to 5000 are read"
    ):
        loaded(FILES["comma, header with units"])
    with pytest.raises(TraceError, match="more than 5000 samples"):
        loaded(FILES["comma, header with units"] + b"\n\n")


def test_a_person_may_know_better_how_columns_are_parted() -> None:
    data = b"1,5;2\n2,5;3\n3,5;4\n" * 4
    assert [len(recognise(data, way).columns) for way in ("", ";,")] == [2, 2]
    assert recognise(data).decimal == ","
    with pytest.raises(TraceError, match="Only 0 lines hold numbers"):
        recognise(data, "\t.")


def test_reading_can_be_stopped() -> None:
    class Stopped(Exception):
        pass

    def stop(share: float) -> None:
        if share >= 0.5:
            raise Stopped

    data = FILES["comma, header with units"]
    with pytest.raises(Stopped):
        read(data, recognise(data), stop)


def test_the_command_prints_every_figure(tmp_path, capsys) -> None:
    path = tmp_path / "trace.csv"
    path.write_bytes(to_csv(series(SETTINGS, 2), SETTINGS).encode())
    call_command("analyse_trace", str(path), "--json")
    found = json.loads(capsys.readouterr().out)
    for name in (
        "t05_s",
        "t01_s",
        "rise_s",
        "time_to_peak_s",
        "light_span_s",
        "light_integral",
        "peak",
        "baseline",
        "noise",
        "pulses",
        "warnings",
    ):
        assert name in found
    assert found["t05_s"] == pytest.approx(T05, rel=0.02)
    assert len(found["pulses"]) == 2
    assert found["warnings"] == []
    call_command("analyse_trace", str(path), "--channel", "1")
    out = capsys.readouterr().out
    assert "t05_s: " in out
    assert "µs" in out
    with pytest.raises(CommandError, match="channels 1 to 2"):
        call_command("analyse_trace", str(path), "--channel", "7")
    call_command("analyse_trace", str(path), "--detector", "50us", "--json")
    assert "slow_detector" in {
        each["code"] for each in json.loads(capsys.readouterr().out)["warnings"]
    }
