"""The garden's folder with mistakes and malice in it: letters that act, other bytes, lines lost, doubled and swapped."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

from davlo.demo import GARDEN

LETTERS = (
    *("\0", "\x07", "\x0b", "\x0c", "\x1b[2J", "\x1b]0;title\x07", "\x7f", "\x85", "\x9b2J", "\r", "\r\n", "\n", "\t"),
    *("\u2028", "\u2029", "\u202e", "\u2066", "\ufeff", "\ufffe", "\u00a0", "\u200d", "\U0001f33f", "漢字", "é"),
    *("[b]", "[/b]", "{{", "}}", "{title}", "$(touch x)", "`id`", "../", "/etc/passwd", "\\", "'", '"', ";", ",", ":"),
    *("9" * 5000, "*", "**", "/**/", "&a", "*a", "!!python/object:os.system", "<empty>", "none", "=1+1", "%2F", "#"),
)
COMMANDS = (
    ["tree"],
    ["tree", "--columns", "sidebar.right,title.pattern", "--sources"],
    ["tree", "--exceptions", "sidebar.right"],
    ["tree", "--exceptions"],
    ["tree", "--having", "menu.show=yes", "--not-shown", "sidebar.right"],
    ["tree", "--format", "json"],
    ["show", "/visit/tickets", "--all"],
    ["show", "/visit/tickets", "/visit/maps"],
    ["show", "/visit/tickets", "--format", "json"],
    ["why", "/visit/tickets", "sidebar.right"],
    ["why", "/visit/tickets", "title.pattern", "--format", "json"],
    ["list"],
    ["list", "--unused"],
    ["list", "--all"],
    ["list", "rules"],
    ["list", "main"],
    ["list", "sidebar.right"],
    ["list", "blocks.content", "--format", "json"],
    ["list", "--fits", "footer"],
    ["menus"],
    ["menus", "next-events", "--format", "json"],
    ["menus", "--on", "/visit", "--as", "members"],
    ["show", "--viewpoints"],
    ["show", "--viewpoints", "--format", "json"],
    ["check"],
    ["check", "--all", "--edits"],
    ["check", "--guarantees"],
    ["check", "--format", "json"],
    ["check", "--format", "sarif"],
    ["check", "--long"],
    ["access"],
    ["access", "/staff"],
    ["access", "--as", "ida.marsh"],
    ["access", "--changes"],
    ["access", "--new", "/staff/new", "--by", "ida.marsh", "--detail", "made_with=potting-bench"],
    ["access", "/staff/rota", "--as", "visitor"],
    ["sitemap"],
    ["sitemap", "--left-out"],
    ["sitemap", "--to", "-"],
    ["crawler-files", "--to", "no-such-folder"],
    ["announce"],
    ["compare", str(GARDEN)],
    ["export", "--format", "jsonl"],
    ["export", "--long", "--format", "json"],
    ("set", "sidebar.right=main", "menu.show=no", "--below", "/visit"),
    ("set", "blocks.content+=donate", "--type", "event", "--format", "json", "--write", "--even-so"),
    ("set", "title.limit=40", "--here", "/visit/*", "--because", "Short", "--write", "--even-so"),
    ("unset", "sidebar.right", "--below", "/visit", "--format", "csv"),
    ("page", "add", "/visit/picnic", "--type", "event", "--write"),
    ("page", "set", "/visit/maps", "title=Maps", "status=draft"),
    ("page", "move", "/visit/maps", "/maps", "--write", "--even-so"),
    ("page", "drop", "/visit/maps", "--branch"),
    ("declare", "sidebar", "kids", "blocks=search-box", "--write", "--even-so"),
    ("declare", "block", "opening-times", "--drop", "--everywhere-named", "--write", "--even-so"),
    ("declare", "--from", str(GARDEN / "declared.yaml"), "--write", "--even-so"),
    ("page", "refresh", "--from", str(GARDEN / "pages.csv"), "--drop-missing", "--write", "--even-so"),
    ("set", "fresh_access=yes", "--below", "/visit", "--write", "--even-so"),
    ("set", "menu.label=A", "--lock", "--everywhere", "--except", "type=event", "--write", "--even-so"),
    ["access", "--in-branch", "/visit"],
    ("set", "menu.show=no", "--new-rule", "Late", "--when", "type=event", "--write", "--even-so"),
    ("rename", "sidebar", "main", "usual", "--write", "--even-so"),
    ("mend", "24vdzf", "--way", "1", "--write", "--even-so"),
    ("page", "restamp", "--new", "--add", "--write"),
    ["schema"],
    ("condense", "--drop-reasons"),
    ("condense", "--write", "--even-so"),
    ("undo",),
    ("undo", "--write"),
    ("undo", "--list"),
)
"""What is asked of each folder, in turn."""

Mutation = Callable[[random.Random, bytes], bytes]


def _letters(chance: random.Random, content: bytes) -> bytes:
    at = chance.randrange(len(content) + 1)
    return content[:at] + chance.choice(LETTERS).encode("utf-8", "surrogatepass") + content[at:]


def _bytes(chance: random.Random, content: bytes) -> bytes:
    at = chance.randrange(len(content) + 1)
    return content[:at] + bytes(chance.randrange(256) for _ in range(chance.randrange(1, 4))) + content[at + 1 :]


def _lines(chance: random.Random, content: bytes) -> bytes:
    lines = content.splitlines(keepends=True)
    one, other = chance.randrange(len(lines)), chance.randrange(len(lines))
    match chance.randrange(4):
        case 0:
            del lines[one]
        case 1:
            lines.insert(one, lines[other])
        case 2:
            lines[one], lines[other] = lines[other], lines[one]
        case _:
            lines[one] = b" " * chance.randrange(1, 5) + lines[one]
    return b"".join(lines)


def _words(chance: random.Random, content: bytes) -> bytes:
    words = content.split(b" ")
    one, other = chance.randrange(len(words)), chance.randrange(len(words))
    words[one] = words[other]
    return b" ".join(words)


def _cut(chance: random.Random, content: bytes) -> bytes:
    return content[: chance.randrange(len(content) + 1)]


def _ends(chance: random.Random, content: bytes) -> bytes:
    return content.replace(b"\n", chance.choice((b"\r", b"\r\n", b"\x0b", "\u2028".encode())))


def _encoding(chance: random.Random, content: bytes) -> bytes:
    text = content.decode("utf-8", "replace")
    return text.encode(chance.choice(("utf-8-sig", "utf-16", "cp1252", "utf-16-be")), "replace")


MUTATIONS: tuple[Mutation, ...] = (
    *(_letters, _letters, _letters, _letters, _bytes, _lines, _lines, _words, _words),
    *(_cut, _ends, _encoding),
)


def mutate(folder: Path, seed: int) -> list[str]:
    """Change one to three things in the files of a folder; gives what was done, the same for each seed."""
    chance = random.Random(seed)
    done = []
    for _ in range(chance.randrange(1, 4)):
        file = chance.choice(sorted(path for path in folder.iterdir() if path.is_file()))
        mutation = chance.choice(MUTATIONS)
        file.write_bytes(mutation(chance, file.read_bytes() or b"\n"))
        done.append(f"{mutation.__name__} in {file.name}")
    return done
