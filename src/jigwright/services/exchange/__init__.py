"""Jigs to and from files of other programs: MusicXML and MIDI."""
