"""``bruiser-cli rig`` and ``bruiser-cli trace`` as a person or a script runs them."""

import json
import subprocess
import sys
import time

import numpy as np
import pytest

from bruiser.app.cli import main
from bruiser.rig.recorder import Recorder
from bruiser.rig.serial.bench import SerialBench
from bruiser.rig.serial.line import SerialLine


def test_the_bench_stands_alone_as_a_process():
    run = subprocess.Popen(
        [sys.executable, "-m", "bruiser.app.cli", "rig", "--simulate", "--seconds", "8",
         "--rate", "1000", "--knot", "none"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        path = run.stdout.readline().strip()
        bench = SerialBench(SerialLine(path), 1_000.0)
        got = []
        recorder = Recorder(bench, got.append)
        recorder.start()
        for _ in range(200):
            if recorder.count >= 1_000:
                break
            time.sleep(0.05)
        recorder.finish()
        bench.close()
        assert recorder.count >= 1_000
        assert recorder.samples_lost == 0
    finally:
        run.terminate()
        run.wait(5)
        run.stdout.close()


def test_a_trace_file_is_read_on_the_command_line(tmp_path, capsys):
    n = 4_000
    t = np.arange(n) / 500
    travel = np.clip((t - 1) * 20, 0, None)
    load = np.where(t < 7, 40 * travel, 0.0) + np.random.default_rng(1).normal(5, 1, n)
    path = tmp_path / "pull.csv"
    rows = zip(t, load, travel, strict=True)
    path.write_text(
        "time_s,load_N,travel_mm,mood\n"
        + "\n".join(f"{a:.4f},{b:.2f},{c:.3f},x" for a, b, c in rows)
    )
    assert main(["trace", str(path), "--json", "--diameter-mm", "8"]) == 0
    out, err = capsys.readouterr()
    said = json.loads(out)
    assert said["format"] == "bruiser-trace-1"
    assert (said["end"], said["capsized"], said["first_slip_n"]) == ("broke", False, None)
    assert said["peak_n"] == pytest.approx(4_800, rel=0.003)
    assert said["end_time_s"] == pytest.approx(7.0, abs=0.003)
    assert said["stiffness_n_per_m"] == pytest.approx(40_000, rel=0.02)
    assert said["zero_n"] == pytest.approx(5, abs=0.5)
    assert "mood" in err
    for text, where in (
        ("", "empty"),
        ("time_s\n1\n", "load_N"),
        ("load_N\n1\n2\n", "time_s"),
        ("time_s,load_N\n0,1\n1,x\n", "Row 3, column load_N"),
        ("time_s,load_N\n", "no readings"),
    ):
        path.write_text(text)
        assert main(["trace", str(path), "--json"]) == 2
        out, err = capsys.readouterr()
        assert out == ""
        assert where in err


def table(path, n=3_000, rate=500, scale=1.0, swap=False):
    """A ramp of 4 kN in 5 s after a second of rest, stopped loaded."""
    t = np.arange(n) / rate
    travel = np.clip((t - 1) * 20, 0, None)
    load = 40 * travel + np.random.default_rng(2).normal(3, 1, n)
    if swap:
        load, travel = travel, load
    lines = [f"{scale * a:.4f},{b:.2f},{c:.3f}" for a, b, c in zip(t, load, travel, strict=True)]
    path.write_text("time_s,load_N,travel_mm\n" + "\n".join(lines) + "\n")
    return str(path)


def test_a_trace_is_said_in_words_without_json(tmp_path, capsys):
    assert main(["trace", table(tmp_path / "a.csv")]) == 0
    out, err = capsys.readouterr()
    assert out.startswith("was stopped, still holding at")
    assert "doubt" not in out
    assert err == ""


def test_milliseconds_under_a_header_of_seconds_are_asked_about(tmp_path, capsys):
    assert main(["trace", table(tmp_path / "ms.csv", scale=1_000.0), "--json"]) == 0
    out, err = capsys.readouterr()
    assert "implausible_rate" in json.loads(out)["flags"]
    assert "is the time in seconds?" in err


def test_a_file_without_time_needs_a_rate(tmp_path, capsys):
    path = tmp_path / "bare.csv"
    full = (tmp_path / "full.csv", table(tmp_path / "full.csv"))[0].read_text().splitlines()
    path.write_text("\n".join(line.split(",", 1)[1] for line in full) + "\n")
    assert main(["trace", str(path), "--json"]) == 2
    assert "--rate" in capsys.readouterr().err
    assert main(["trace", str(path), "--json", "--rate", "500"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["sample_rate_hz"] == pytest.approx(500)
    assert said["rate_mm_s"] == pytest.approx(20, rel=0.02)


@pytest.mark.parametrize("arguments", [["--cord", "rope of sand"], ["--knot", "no-such-knot"]])
def test_a_bench_that_cannot_be_is_refused(arguments, capsys):
    assert main(["rig", "--simulate", *arguments]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert "There is no" in err


def test_a_file_that_is_not_there_or_no_text_is_said(tmp_path, capsys):
    assert main(["trace", str(tmp_path / "nowhere.csv")]) == 2
    assert "cannot be read" in capsys.readouterr().err
    binary = tmp_path / "b.csv"
    binary.write_bytes(bytes(range(256)))
    assert main(["trace", str(binary)]) == 2
    assert "no UTF-8 text" in capsys.readouterr().err
