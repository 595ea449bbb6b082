"""What the Stand shows: listening, takes that begin and end by themselves, trials."""
