"""From what was heard and lined up to figures against a reference, and to findings."""
