"""Input made to mislead or to break: tables and records of known truth, spoilt files."""
