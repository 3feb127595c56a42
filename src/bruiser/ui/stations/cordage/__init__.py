"""The cordage station: views and presenter."""
