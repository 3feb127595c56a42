"""What is recorded: layouts, methods, lots, knots, specimens, pulls, findings, and what they mean.

No statistics."""
