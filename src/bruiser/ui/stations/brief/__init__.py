"""The brief station: views and presenter."""
