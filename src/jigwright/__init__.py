"""Jigwright: listens to bowed-string practice and says what it heard, note by note."""

__version__ = "0.1.0"
