"""Simulations against known truth that back the figures in docs/statistics.md."""
