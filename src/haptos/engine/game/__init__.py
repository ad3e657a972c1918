"""What follows from a tick: pickups, harm, checkpoints, counters, and rules."""
