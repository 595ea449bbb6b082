"""From samples to frames, contours, segments and partials."""
