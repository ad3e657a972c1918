"""The tool as ``python -m haptos``."""

from haptos.cli import main

if __name__ == "__main__":
    main()
