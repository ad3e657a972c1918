"""The commands of the tool, one a file; each is one question to the library."""
