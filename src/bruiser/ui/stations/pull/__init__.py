"""The pull station: view and presenter."""
