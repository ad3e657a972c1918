"""Loose bodies: they fall, turn, slide, roll, stack, hang on hinges, and come to rest."""
