"""Widgets used by more than one station."""
