"""What the Desk shows: the shelf, the take that is shown, its close looks."""
