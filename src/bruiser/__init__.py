"""Bruiser: the bench companion of the technician who pull-tests knots in cordage."""

__version__ = "0.1.0"
