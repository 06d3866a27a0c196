"""Completion in Bash. Bash splits words at `=` and `:`, and takes what is offered as if somebody had typed it."""

from __future__ import annotations

import os
import re

from click.shell_completion import BashComplete, CompletionItem, add_completion_class

_SPECIAL = re.compile(r"[^\w/.,@+:=~-]")
_BREAK = re.compile("[=:]+")
"""Bash makes separate words of these characters (see COMP_WORDBREAKS in its manual); Davlo joins the words again."""


class BashWords(BashComplete):
    """Bash completion for words with `=` in them and for names with spaces; after `=` no space is added."""

    source_template = r"""
%(complete_func)s() {
    local IFS=$'\n' line
    COMPREPLY=()
    while read -r line; do
        case $line in
            dir,*) compopt -o dirnames ;;
            file,*) compopt -o default ;;
            plain,*=) compopt -o nospace; COMPREPLY+=("${line#plain,}") ;;
            plain,*) COMPREPLY+=("${line#plain,}") ;;
        esac
    done < <(env COMP_WORDS="${COMP_WORDS[*]}" COMP_CWORD=$COMP_CWORD %(complete_var)s=bash_complete "$1")
}
complete -o nosort -F %(complete_func)s %(prog_name)s
"""
    _begun = ""
    _given = 0
    _is_quoted = False

    def get_completion_args(self) -> tuple[list[str], str]:
        """The words before the one that is completed, and what of that one is typed."""
        before, last = super().get_completion_args()
        as_typed = os.environ["COMP_WORDS"].split("\n")[len(before) + 1 :] or [""]
        self._is_quoted = as_typed[0].startswith(("'", '"'))
        words = [""]
        for word in (*before, last):
            is_joined = _BREAK.fullmatch(word) is not None or _BREAK.fullmatch(words[-1][-1:]) is not None
            words = [*words[:-1], words[-1] + word] if is_joined and len(words) > 1 else [*words, word]
        self._begun = words[-1]
        self._given = len(self._begun) - (0 if _BREAK.fullmatch(last) else len(last))
        return words[1:-1], self._begun

    def format_completion(self, item: CompletionItem) -> str:
        """A line for the script: the part that Bash lacks, each special letter marked where no quote is open."""
        value, begun = str(item.value), self._begun
        starts = (at for at in range(len(begun) + 1) if value.startswith(begun[at:]))
        added = value[max(0, self._given - next(starts)) :]
        marked = added if self._is_quoted else _SPECIAL.sub(lambda one: chr(92) + one[0], added)
        return f"{item.type},{marked}"


add_completion_class(BashWords)
