"""Interface: painting."""
