"""The worker process: analysis, import and engraving away from the window."""
