"""Questions asked of levels and runs."""
