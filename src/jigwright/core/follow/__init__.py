"""Lining a take up with its jig: retries, going back, skipped and extra notes."""
