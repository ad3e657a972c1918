"""How leaves become machine code, where it is kept, and how it is called."""
