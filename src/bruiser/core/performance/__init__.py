"""What the pulls say of a knot: strength kept, slip, security, jamming, grip, tying, claims.

One report compares all of them. How good that is for a use is the room of choice.
"""
