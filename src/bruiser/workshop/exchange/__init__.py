"""What goes in and out whole: packages, merged campaigns, copies kept, and what is checked."""
