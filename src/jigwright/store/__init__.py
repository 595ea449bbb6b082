"""The studio: a folder with an SQLite database and audio."""
