"""The campaign as it is kept.

Commands with their undo, and the logbook as it is read. Everything else in
the workshop rests on it.
"""
