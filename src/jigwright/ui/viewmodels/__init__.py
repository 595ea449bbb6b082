"""Interface: viewmodels."""
