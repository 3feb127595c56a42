"""Running work off the interface thread; settings."""
