"""Sentences for window, command line and report; no Qt. The only place where words are made."""
