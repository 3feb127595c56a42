"""The findings station: view and presenter."""
