"""The order of a tick, how a run begins, and the kernel that Python calls."""
