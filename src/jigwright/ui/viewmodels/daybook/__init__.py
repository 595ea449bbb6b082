"""What the Daybook shows: plan, ladders, trends, days, pupils."""
