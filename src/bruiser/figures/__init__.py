"""Charts, specimen strips and drawings described once as display lists; no Qt.

Lengths are millimetre on the page. Colours and text styles are names of tokens.
"""
