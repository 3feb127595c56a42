"""The analysis of a trace as JSON, ``bruiser-trace-1``."""

from __future__ import annotations

import json
import math

from bruiser.core.trace import TraceResult


def _plain(value: float | None) -> float | None:
    return None if value is None or not math.isfinite(value) else float(value)


def trace_json(result: TraceResult) -> str:
    """One trace's analysis; loads in newton after the zero, lengths in metre but for ``mm``."""
    return json.dumps(
        {
            "format": "bruiser-trace-1",
            "zero_n": _plain(result.zero_n),
            "peak_n": _plain(result.peak_n),
            "peak_time_s": _plain(result.peak_time_s),
            "end": result.end.value,
            "end_time_s": _plain(result.end_time_s),
            "capsized": result.capsized,
            "capsize_n": _plain(result.capsize_n),
            "first_slip_n": _plain(result.first_slip_n),
            "slips": [
                {
                    "time_s": _plain(s.time_s),
                    "load_n": _plain(s.load_n),
                    "drop_n": _plain(s.drop_n),
                    "released_mm": _plain(1000 * s.released_m),
                }
                for s in result.slips
            ],
            "preload_n": _plain(result.preload_n),
            "stiffness_n_per_m": _plain(result.stiffness_n_per_m),
            "energy_j": _plain(result.energy_j),
            "rate_mm_s": _plain(1000 * result.rate_m_s),
            "noise_n": _plain(result.noise_n),
            "sample_rate_hz": _plain(result.sample_rate_hz),
            "tail_draw_mm": _plain(
                None if result.tail_draw_m is None else 1000 * result.tail_draw_m
            ),
            "advantage": _plain(result.advantage),
            "flags": list(result.flags),
            "doubts": list(result.doubts),
        },
        indent=1,
    )
