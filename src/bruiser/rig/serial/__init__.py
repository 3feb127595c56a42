"""Benches and indicators on a serial line."""
