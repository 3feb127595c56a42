"""The eight stations of the work; none imports another."""
