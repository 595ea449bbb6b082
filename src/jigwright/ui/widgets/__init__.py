"""Interface: widgets."""
