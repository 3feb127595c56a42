"""The knot catalogue: one data file a structure, and the loader that checks them."""

from bruiser.catalogue.finding import NameClash, Need, find_structures, name_clashes
from bruiser.catalogue.loader import load_catalogue, parse_structure, shipped_texts, structure_from
from bruiser.catalogue.structure import PLAIN, Answer, Structure, TradeName

__all__ = [
    "PLAIN",
    "Answer",
    "NameClash",
    "Need",
    "Structure",
    "TradeName",
    "find_structures",
    "load_catalogue",
    "name_clashes",
    "parse_structure",
    "shipped_texts",
    "structure_from",
]
