"""Tokens, fonts, icons and the stylesheet made from them."""
