"""Adapters for sound: files and output devices."""
