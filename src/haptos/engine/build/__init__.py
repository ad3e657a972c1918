"""From a level to tables and to the state at the start."""
