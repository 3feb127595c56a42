"""How the tests of the analysis have a trace read."""

from bruiser.core.trace import analyse_trace, trace_of


def read(time_s, load_n, travel_m, *, capacity_n=None, settings=None, **more):
    """What the analysis says of some channels; `more` are those of a second load and a gauge."""
    trace = trace_of(load_n, travel_m, stamps_s=time_s, **more)
    return analyse_trace(trace, capacity_n=capacity_n, settings=settings)
