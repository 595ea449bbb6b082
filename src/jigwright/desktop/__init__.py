"""Files that make the program a desktop application."""
