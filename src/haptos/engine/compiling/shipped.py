"""Where the code of kernels lies: with the package, or in the user's cache, each beside a digest of its sources.

The machine code of all kernels ships for the platforms in `PLATFORMS`, one archive for each. What was made on this
machine lies in the user's cache folder (or `HAPTOS_CACHE_DIR`), in a folder named after the digest. The digest is one
of all sources that kernels are made of: a stale record layout would corrupt memory without a word.
"""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import os
import re
import shutil
import tarfile
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

from haptos.errors import HaptosError, KernelError
from haptos.writing import write_bytes

PACKAGE = Path(__file__).resolve().parents[2]
FOLDER = PACKAGE / "engine" / "compiling" / "shipped_kernels"
# The modules of all kernels, and what makes code of them; what these import of the package is compiled in too.
ROOTS = (
    "engine/tick/advance.py",
    "engine/compiling/building.py",
    "engine/collision/impact.py",
    "engine/collision/poses.py",
    "engine/collision/traces.py",
)
IMPORT = re.compile(rb"^from haptos\.((?:engine|level)[a-z_.]*) import", re.MULTILINE)
MANIFEST = "manifest.json"
# As LLVM calls them.
PLATFORMS = ("x86_64-unknown-linux-gnu", "aarch64-unknown-linux-gnu", "arm64-apple-darwin")
# Folders of older kernels are kept by count, so that two checkouts in turn don't compile again each time.
KEPT_FOLDERS = 4


@cache
def sources() -> tuple[Path, ...]:
    """Return the sources that kernels are made of, in the order of their names."""
    found: set[Path] = set()
    waiting = [PACKAGE / root for root in ROOTS]
    while waiting:
        path = waiting.pop()
        if path in found or not path.is_file():
            continue
        found.add(path)
        modules = {match.decode().replace(".", "/") for match in IMPORT.findall(path.read_bytes())}
        waiting += [PACKAGE / module / "__init__.py" for module in modules]
        waiting += [PACKAGE / f"{module}.py" for module in modules]
    return tuple(sorted(found))


@cache
def digest() -> str:
    """Return a digest of these sources, the same wherever the package lies and however its lines end."""
    whole = hashlib.sha256()
    for path in sources():
        text = path.read_bytes().replace(b"\r\n", b"\n")
        whole.update(f"{path.relative_to(PACKAGE).as_posix()} {len(text)}\n".encode() + text)
    return whole.hexdigest()


@cache
def manifest() -> dict[str, Any]:
    """Return what is said of the kernels that ship; nothing if that can't be read."""
    try:
        said: dict[str, Any] = json.loads((FOLDER / MANIFEST).read_text(encoding="utf-8"))
        return said if isinstance(said.get("files"), dict) else {}
    except (OSError, ValueError, AttributeError):
        return {}


def shipped_code(key: str, platform: str) -> bytes | None:
    """Return a kernel's machine code as it ships, or None if it does not.

    Parameters
    ----------
    key : str
        The kernel's name, and a digest of the layout of its arguments.
    platform : str
        As LLVM calls it.

    Raises
    ------
    KernelError
        If what ships is stale or damaged.
    """
    # The version of the system, which some platforms end in, makes no difference.
    name = next((known for known in PLATFORMS if platform.startswith(known)), platform)
    said = manifest()
    if name not in said.get("files", {}):
        return None
    if said.get("digest") != digest():
        raise KernelError("the kernels that ship are older than the sources")
    try:
        archive = (FOLDER / f"{name}.tar.xz").read_bytes()
    except OSError as error:
        raise KernelError(f"{name}.tar.xz can't be read: {error.strerror}") from None
    if hashlib.sha256(archive).hexdigest() != said["files"][name]:
        raise KernelError(f"{name}.tar.xz is damaged")
    with tarfile.open(fileobj=io.BytesIO(archive), mode="r|xz") as members:
        for member in members:
            file = members.extractfile(member) if member.name == key else None
            if file is not None:
                return file.read()
    return None


def archive_of(codes: dict[str, bytes]) -> bytes:
    """Return machine code by key as it ships: the same bytes for the same code, whenever it is made.

    Examples
    --------
    >>> archive_of({"one": b"code"}) == archive_of({"one": b"code"})
    True
    """
    plain = io.BytesIO()
    with tarfile.open(fileobj=plain, mode="w", format=tarfile.USTAR_FORMAT) as archive:
        for key, code in codes.items():
            member = tarfile.TarInfo(key)
            member.size = len(code)
            archive.addfile(member, io.BytesIO(code))
    return lzma.compress(plain.getvalue(), preset=9 | lzma.PRESET_EXTREME)


def write_shipped(archives: dict[str, bytes], versions: dict[str, str]) -> None:
    """Write the kernels that ship.

    Parameters
    ----------
    archives : dict
        What `archive_of` gives, by platform.
    versions : dict
        Of what made them.
    """
    FOLDER.mkdir(exist_ok=True)
    for name, archive in archives.items():
        write_bytes(FOLDER / f"{name}.tar.xz", archive)
    files = {name: hashlib.sha256(archive).hexdigest() for name, archive in archives.items()}
    said = {"digest": digest(), "versions": versions, "files": files}
    write_bytes(FOLDER / MANIFEST, (json.dumps(said, indent=1) + "\n").encode())
    manifest.cache_clear()


def cache_root() -> Path:
    """Return the folder of all that is kept on this machine."""
    import platformdirs

    return Path(os.environ.get("HAPTOS_CACHE_DIR") or platformdirs.user_cache_dir("haptos")) / "kernels"


def cached_code(key: str, platform: str) -> bytes | None:
    """Return machine code that was made on this machine before, or None."""
    folder = cache_root() / digest()[:20]
    try:
        code = (folder / f"{key}.{platform}").read_bytes()
        os.utime(folder)
    except OSError:
        return None
    # Written whole, and yet a disk can fail: what is kept says its own digest first.
    said, _, rest = code.partition(b"\n")
    return rest if hashlib.sha256(rest).hexdigest().encode() == said else None


def keep_code(key: str, platform: str, code: bytes) -> None:
    """Keep machine code for the next process; where nothing can be written, that will make it again."""
    folder = cache_root() / digest()[:20]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        write_bytes(folder / f"{key}.{platform}", hashlib.sha256(code).hexdigest().encode() + b"\n" + code)
        _prune(folder.parent)
    except (OSError, HaptosError):
        return


def _prune(root: Path) -> None:
    folders = sorted((item for item in root.iterdir() if item.is_dir()), key=lambda item: -item.stat().st_mtime)
    for stale in folders[KEPT_FOLDERS:]:
        shutil.rmtree(stale, ignore_errors=True)


def last_times() -> dict[str, float]:
    """Return how many seconds each kernel took to compile here last."""
    try:
        said = json.loads((cache_root() / "times.json").read_text(encoding="utf-8"))
        return {str(key): float(value) for key, value in said.items()}
    except (OSError, ValueError, AttributeError, TypeError):
        return {}


def note_time(name: str, seconds: float) -> None:
    """Remember how long a kernel took to compile."""
    try:
        cache_root().mkdir(parents=True, exist_ok=True)
        times: Iterable[tuple[str, float]] = {**last_times(), name: round(seconds, 1)}.items()
        write_bytes(cache_root() / "times.json", json.dumps(dict(times)).encode())
    except (OSError, HaptosError):
        return
