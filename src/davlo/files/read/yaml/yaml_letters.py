"""Letters that end a line only in YAML 1.1: replaced before a text is parsed, and put back into its values."""

from __future__ import annotations

import yaml

_ODD_BREAKS = "\x85\u2028\u2029"


def without_odd_breaks(content: str) -> tuple[str, dict[int, str]]:
    """A text in which no character ends a line in YAML 1.1 alone, and what gives such characters back to its values.

    In YAML 1.2 (section 5.4) U+0085, U+2028 and U+2029 are letters like others. The parser takes them for ends of
    lines, as YAML 1.1 has it; so letters of private use that the text lacks take their places while it is parsed.
    """
    odd = [letter for letter in _ODD_BREAKS if letter in content]
    if not odd:
        return content, {}
    free = (chr(code) for code in range(0xE000, 0xF900) if chr(code) not in content)
    stand_ins = {ord(letter): stand_in for letter, stand_in in zip(odd, free, strict=False)}
    return content.translate(stand_ins), {ord(new): chr(old) for old, new in stand_ins.items()}


def give_back(root: yaml.Node, stands_for: dict[int, str]) -> None:
    """Put the letters of a file into the values of its nodes, where others stand for them."""
    seen: set[int] = set()
    seek = [root]
    while seek:
        node = seek.pop()
        if id(node) in seen:
            continue
        seen.add(id(node))
        if isinstance(node, yaml.ScalarNode):
            node.value = node.value.translate(stands_for)
        else:
            for one in node.value:
                seek += one if isinstance(one, tuple) else (one,)
