"""Sums before a pull.

Cuts, order, time at the bench, stored energy, what a bench bears, what is plausible. The photo
rule is one of them.
"""
