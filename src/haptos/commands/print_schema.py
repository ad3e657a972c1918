"""The schema of level files."""

from __future__ import annotations

from haptos.commands.outputs import print_json
from haptos.commands.tool import app


@app.command()
def schema() -> None:
    """Print the JSON Schema of level files."""
    from haptos.level.level import Level

    print_json(Level.model_json_schema())
