"""What a recorded pull shows: zero, peak, slips, and whether it broke, ran out or was stopped."""

from bruiser.core.trace.analyse import analyse_trace
from bruiser.core.trace.record import (
    FLAG_WORDS,
    TRACE_END_WORDS,
    Floats,
    Slip,
    TraceEnd,
    TraceResult,
    TraceSettings,
)
from bruiser.core.trace.smoothing import smooth_load

__all__ = [
    "FLAG_WORDS",
    "TRACE_END_WORDS",
    "Floats",
    "Slip",
    "TraceEnd",
    "TraceResult",
    "TraceSettings",
    "analyse_trace",
    "smooth_load",
]
