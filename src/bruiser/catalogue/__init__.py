"""The knot catalogue: one data file a structure, and the loader that checks them."""

from bruiser.catalogue.loader import Structure, TradeName, load_catalogue

__all__ = ["Structure", "TradeName", "load_catalogue"]
