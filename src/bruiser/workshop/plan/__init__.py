"""The queue.

Which specimens, what they cost, their cuts, their order, and whether a bench bears them. The
bench book is written here.
"""
