"""Statistics of strengths of which some are only known as at least.

Fits, posteriors, bounds, comparisons. They know nothing of knots.
"""
