"""What the technician does, as commands that can be undone, and what the stations show. No Qt."""
