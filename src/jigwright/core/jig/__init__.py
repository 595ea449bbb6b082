"""The jig: an exercise made ready, and its generators."""
