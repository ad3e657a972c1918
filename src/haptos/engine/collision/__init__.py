"""When and where outlines meet: roots, grid, time of impact, gaps, poses."""
