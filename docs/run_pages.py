"""Run what the pages of docs say, and write what comes of it into them: `make screenshots`.

A fence ``toml FILE`` is a file, ``toml +FILE`` is added to one. In a fence ``console`` each line after ``$`` is run in
a folder of the page's own, and what it prints stands below it.
"""

from __future__ import annotations

import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

DOCS = Path(__file__).parent
PAGES = ("tutorial", "cookbook")
FENCE = re.compile(r"^```(toml (\+?)(\S+)|console)\n(.*?)^```$", re.MULTILINE | re.DOTALL)


def filled(text: str, folder: Path) -> str:
    """Return a page with what its commands print, having run them in a folder."""

    def run(found: re.Match[str]) -> str:
        kind, adds, name, body = found.groups()
        if kind != "console":
            file = folder / name
            before = file.read_text(encoding="utf-8") + "\n" if adds else ""
            file.write_text(before + body, encoding="utf-8")
            return found[0]
        commands = [line for line in body.splitlines() if line.startswith("$ ")]
        return "```console\n" + "\n".join(f"{line}\n{printed(line[2:], folder)}" for line in commands) + "```"

    return FENCE.sub(run, text)


def printed(command: str, folder: Path) -> str:
    """Return what a command of the tool prints, without white space at the ends of lines."""
    words = shlex.split(command)
    assert words[0] == "haptos", command
    environment = {name: value for name, value in os.environ.items() if name != "COLUMNS"} | {"NO_COLOR": "1"}
    done = subprocess.run(
        [sys.executable, "-m", "haptos", *words[1:]], cwd=folder, env=environment, capture_output=True, text=True
    )
    lines = [line.rstrip() for line in (done.stdout + done.stderr).splitlines()]
    return "".join(f"{line}\n" for line in lines).strip("\n") + "\n"


def main() -> None:
    """Fill all pages, and keep the pictures that their commands draw beside them."""
    for page in PAGES:
        file, pictures = DOCS / f"{page}.md", DOCS / page
        with tempfile.TemporaryDirectory() as name:
            file.write_text(filled(file.read_text(encoding="utf-8"), Path(name)), encoding="utf-8")
            for picture in sorted(Path(name).glob("*.png")):
                pictures.mkdir(exist_ok=True)
                shutil.copy(picture, pictures / picture.name)
        print(f"page: {file}")


if __name__ == "__main__":
    main()
