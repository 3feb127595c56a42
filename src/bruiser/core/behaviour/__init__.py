"""What a knot does besides its strength: slipping, staying, jamming, tying, gripping, its work.

Each from its own readings; nothing here compares knots.
"""
