"""Knots as curves: what is drawn, which knot it is, and what follows from that alone.

A recipe is a short text path with over and under words (`recipe`); it becomes curves (`curve`),
crossings (`crossings`), heights (`heights`), planar codes (`codes`) and invariants (`alexander`,
`jones`); `fingerprint` gathers what is asserted of an entry.
"""
