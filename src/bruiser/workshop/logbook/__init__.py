"""The campaign as it is kept.

Commands with their undo, the logbook as read, and what is common to forms. Everything else in
the workshop rests on it.
"""
