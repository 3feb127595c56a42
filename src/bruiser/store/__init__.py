"""The campaign file: one SQLite database a campaign. The only layer that knows SQL."""
