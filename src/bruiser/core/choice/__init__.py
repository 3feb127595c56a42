"""What is asked and what is chosen.

Brief and criteria, uses, bands, ranking, working loads, the guide's record. It rests on the
ratings.
"""
