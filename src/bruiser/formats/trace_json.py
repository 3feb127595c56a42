"""The analysis of a trace as JSON, ``bruiser-trace-1``."""

from __future__ import annotations

from bruiser.core.json_records import write_document
from bruiser.core.trace import TraceResult


def trace_json(result: TraceResult) -> str:
    """One trace's analysis; loads in newton after the zero, lengths in metre but for ``mm``."""
    return write_document(
        {
            "format": "bruiser-trace-1",
            "zero_n": (result.zero_n),
            "peak_n": (result.peak_n),
            "peak_time_s": (result.peak_time_s),
            "end": result.end.value,
            "end_time_s": (result.end_time_s),
            "capsized": result.capsized,
            "capsize_n": (result.capsize_n),
            "first_slip_n": (result.first_slip_n),
            "slips": [
                {
                    "time_s": (s.time_s),
                    "load_n": (s.load_n),
                    "drop_n": (s.drop_n),
                    "released_mm": (1000 * s.released_m),
                }
                for s in result.slips
            ],
            "preload_n": (result.preload_n),
            "stiffness_n_per_m": (result.stiffness_n_per_m),
            "energy_j": (result.energy_j),
            "rate_mm_s": (1000 * result.rate_m_s),
            "noise_n": (result.noise_n),
            "sample_rate_hz": (result.sample_rate_hz),
            "tail_draw_mm": (None if result.tail_draw_m is None else 1000 * result.tail_draw_m),
            "advantage": (result.advantage),
            "flags": list(result.flags),
            "doubts": list(result.doubts),
        }
    )
