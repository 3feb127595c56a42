"""The simulated bench: a seeded model of cord, knot and machine with the truth known.

All constants are synthetic round numbers. They describe no maker's product.
"""
