"""What readings say of a knot.

Efficiency, slip, security, jamming, wraps, tying, and claims about it. One report rates them
all.
"""
