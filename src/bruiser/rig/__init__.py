"""Instruments: what a bench can do, the simulated bench, and the recorder. No Qt, no store."""
