"""Which line of a level file says a thing."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

BARE_KEY = re.compile(r"[A-Za-z0-9_-]+")
BLANK = re.compile(r"(?:[ \t\r\n]|#[^\n]*)*")
# What ends a number, a date or a truth value.
PLAIN_END = re.compile(r"[,\]}\n#]")
STRINGS = ('"""', "'''", '"', "'")


@dataclass
class Node:
    """A key or an entry of a list: its line, what stands below it, and the name that it gives itself."""

    line: int
    below: dict[str | int, Node] = field(default_factory=dict)
    name: str | None = None


class SourceLines:
    """The lines of a TOML or JSON file on which its keys stand.

    Parameters
    ----------
    text : str
        The whole file, which has been read without an error.
    is_json : bool

    Examples
    --------
    >>> lines = SourceLines("[player]\\nat = [0, 0]\\n\\n[[pieces]]\\nname = 'door'\\nshape = { box = [1, 2] }", False)
    >>> lines.of("pieces[0] 'door', shape.box"), lines.of("player.at"), lines.of("pieces[0] 'door', route")
    (6, 2, 4)
    """

    def __init__(self, text: str, is_json: bool) -> None:
        self.root = Node(1)
        reader = _Reader(text, ":" if is_json else "=")
        try:
            if is_json:
                reader.value(self.root)
            else:
                reader.document(self.root)
        except (IndexError, ValueError, RecursionError):
            # What was found up to there holds.
            pass
        self.last = reader.begun

    def of(self, place: str) -> int | None:
        """Return the line of a place in the words of messages; of what is not written, that of what it belongs to."""
        here, rest, line = self.root, place, None
        while rest:
            step = _step(here, rest)
            if step is None:
                break
            here, rest = step
            line = here.line
        return line


def _step(here: Node, rest: str) -> tuple[Node, str] | None:
    """Return what a place names next, and the rest of its words."""
    rest = rest.lstrip(".,: ")
    if rest.startswith("'"):
        # The name of what was counted.
        end = rest.find("'", 1)
        return (here, rest[end + 1 :]) if end > 0 else None
    if rest.startswith("["):
        number, _, after = rest[1:].partition("]")
        found = here.below.get(int(number)) if number.isdigit() else None
        return None if found is None else (found, after)
    if rest.startswith("/"):
        children = here.below.get("pieces", Node(0)).below.values()
        fitting = [child for child in children if child.name and _begins(rest[1:], child.name)]
        child = max(fitting, key=lambda one: len(str(one.name)), default=None)
        return None if child is None else (child, rest[1 + len(str(child.name)) :])
    keys = [key for key in here.below if isinstance(key, str) and _begins(rest, key)]
    key = max(keys, key=len, default=None)
    return None if key is None else (here.below[key], rest[len(key) :])


def _begins(words: str, key: str) -> bool:
    """Whether words begin with a key, and not with a longer one."""
    return words.startswith(key) and (len(words) == len(key) or words[len(key)] in ".,[ /:'")


class _Reader:
    """Reads a text that is known to be good, and notes the lines of its keys."""

    def __init__(self, text: str, sign: str) -> None:
        self.text, self.sign = text, sign
        self.at = 0
        # The line of the last key.
        self.begun = 1
        self._line, self._counted = 1, 0

    def document(self, root: Node) -> None:
        """Read a TOML file."""
        here = root
        self._skip()
        while self.at < len(self.text):
            if self.text.startswith("[[", self.at):
                self.at += 2
                here = self._table(root, is_entry=True)
                self.at += 2
            elif self.text[self.at] == "[":
                self.at += 1
                here = self._table(root, is_entry=False)
                self.at += 1
            else:
                self._pair(here)
            self._skip()

    def value(self, node: Node) -> None:
        """Read a value, what stands below it with it."""
        self._skip()
        opening = self.text[self.at]
        if opening == "[":
            self._entries(node)
        elif opening == "{":
            self._pairs(node)
        elif opening in "\"'":
            self._string()
        else:
            found = PLAIN_END.search(self.text, self.at)
            self.at = found.start() if found else len(self.text)

    def _entries(self, node: Node) -> None:
        self.at += 1
        self._skip()
        while self.text[self.at] != "]":
            entry = Node(self._now())
            node.below[len(node.below)] = entry
            self.value(entry)
            self._comma()
        self.at += 1

    def _pairs(self, node: Node) -> None:
        self.at += 1
        self._skip()
        while self.text[self.at] != "}":
            self._pair(node)
            self._comma()
        self.at += 1

    def _comma(self) -> None:
        self._skip()
        if self.text[self.at] == ",":
            self.at += 1
            self._skip()

    def _pair(self, here: Node) -> None:
        line = self.begun = self._now()
        keys = self._keys()
        for key in keys:
            here = here.below.setdefault(key, Node(line))
        self.at = self.text.index(self.sign, self.at) + 1
        self._skip()
        begin = self.at
        self.value(here)
        if keys[-1] == "name":
            here.name = self.text[begin : self.at].strip().strip("\"'")

    def _table(self, root: Node, is_entry: bool) -> Node:
        """Return what a header begins: a table, or an entry of a list."""
        line, here = self._now(), root
        keys = self._keys()
        for key in keys[:-1]:
            here = _last(here.below.setdefault(key, Node(line)))
        table = here.below.setdefault(keys[-1], Node(line))
        if is_entry:
            table.below[len(table.below)] = Node(line)
            return table.below[len(table.below) - 1]
        return table

    def _keys(self) -> list[str]:
        """Return the parts of a key, which may be quoted."""
        keys = []
        while True:
            self._skip()
            if self.text[self.at] in "\"'":
                keys.append(self._string())
            else:
                found = BARE_KEY.match(self.text, self.at)
                if found is None:
                    raise IndexError
                keys.append(found[0])
                self.at = found.end()
            self._skip()
            if self.text[self.at] != ".":
                return keys
            self.at += 1

    def _string(self) -> str:
        mark = next(mark for mark in STRINGS if self.text.startswith(mark, self.at))
        begin = self.at + len(mark)
        end = begin
        while not self.text.startswith(mark, end):
            end += 2 if self.text[end] == "\\" and mark[0] == '"' else 1
        self.at = end + len(mark)
        return self.text[begin:end]

    def _skip(self) -> None:
        found = BLANK.match(self.text, self.at)
        self.at = found.end() if found else self.at

    def _now(self) -> int:
        """Return the line of the next character."""
        self._line += self.text.count("\n", self._counted, self.at)
        self._counted = self.at
        return self._line


def _last(node: Node) -> Node:
    """Return the last entry of a list, a table itself."""
    numbers = [key for key in node.below if isinstance(key, int)]
    return node.below[numbers[-1]] if numbers else node
