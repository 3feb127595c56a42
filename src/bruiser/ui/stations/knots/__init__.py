"""The knots station: views and presenter."""
