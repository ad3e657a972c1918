"""Record layouts of tables, state, and what a run leaves behind."""
