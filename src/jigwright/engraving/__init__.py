"""Adapter for real notation: jigs to MEI, MEI to SVG that Qt can draw."""
