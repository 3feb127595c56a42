"""Records and all computation: pure functions of their arguments, SI units, no interface."""
