"""The body's own motion: controls, segments, ground, corners, ladders, fields, gravity."""
