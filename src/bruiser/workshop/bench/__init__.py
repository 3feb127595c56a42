"""A pull at a bench: the instrument, the session, the method that runs, and what is stored of it.

The end of a pull, interrupted or not, is here too."""
