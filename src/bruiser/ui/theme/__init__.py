"""Tokens, icons and the stylesheet made from them."""
