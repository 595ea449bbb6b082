"""Interface: places."""
