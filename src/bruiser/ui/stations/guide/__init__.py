"""The guide: choosing a knot for a use, its ranking, uses and limits, and publishing."""
