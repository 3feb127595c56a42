"""The pulls sorted into groups, and what each group says by itself.

What compares groups, or says them in words, is in ``results``.
"""
