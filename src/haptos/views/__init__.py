"""Pictures and terminal tables."""
