"""The campaign as a whole: made, continued, what comes next in it, and everything in it found.

Uses every other room, and is used by the window alone.
"""
