"""Pitch names, intervals, instruments, tunings and the references notes are held against."""
