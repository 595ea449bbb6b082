"""The window: PyQt6 only here."""
