"""Campaigns on a PostgreSQL server, for several benches at once."""
