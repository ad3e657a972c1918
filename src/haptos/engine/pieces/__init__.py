"""Pieces that give way, fly, are made and break."""
