"""The plan station: views and presenter."""
