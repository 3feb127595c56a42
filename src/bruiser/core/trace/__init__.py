"""What a recorded pull shows: zero, peak, slips, and whether it broke, ran out or was stopped."""

from bruiser.core.trace.analyse import analyse_trace
from bruiser.core.trace.channels import CHANNELS, NOTHING_YET, Channel, Trace, trace_of
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
    "CHANNELS",
    "FLAG_WORDS",
    "NOTHING_YET",
    "TRACE_END_WORDS",
    "Channel",
    "Floats",
    "Slip",
    "Trace",
    "TraceEnd",
    "TraceResult",
    "TraceSettings",
    "analyse_trace",
    "smooth_load",
    "trace_of",
]
