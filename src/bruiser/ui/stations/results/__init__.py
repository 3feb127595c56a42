"""The results station: view and presenter."""
