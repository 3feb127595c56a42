"""What the pulls of the logbook say.

Gathered into groups, rated, judged, compared, and put in words. Nothing here stores anything.
"""
