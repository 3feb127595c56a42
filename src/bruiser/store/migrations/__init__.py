"""Alembic migrations of the campaign file."""
