"""The words of the command line that need more than a few lines."""
