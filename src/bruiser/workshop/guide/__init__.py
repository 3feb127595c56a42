"""The selection guide.

Knots rated and chosen for a use, the book of limits and uses, and publishing. What is printed
is one frozen record.
"""
