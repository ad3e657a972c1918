"""What a designer writes: the models of a level, its units, contacts, kinds and cues. No numerics."""
