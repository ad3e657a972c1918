"""What a run says: sentences of events, names of what was made, where pieces were."""
