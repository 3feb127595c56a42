"""The interface: theme, widgets shared by stations, and the stations themselves."""
