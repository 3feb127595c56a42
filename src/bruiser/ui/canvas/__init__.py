"""Paints figures and lets people point at them."""
