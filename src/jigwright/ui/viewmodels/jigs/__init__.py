"""What Jigs shows."""
