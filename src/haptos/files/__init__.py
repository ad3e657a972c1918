"""Reading and writing levels, cues and runs: TOML, JSON, CSV."""
