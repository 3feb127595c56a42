"""Start-up: windows, command line, paths, logging, crash report, the demo campaign."""
