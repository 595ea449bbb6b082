"""One module per measure."""
