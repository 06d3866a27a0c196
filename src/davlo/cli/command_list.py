"""The commands by heading, in the order of work, and the question that each answers."""

from __future__ import annotations

import inspect
from collections import Counter
from collections.abc import Callable
from typing import Any

import click

from .machine import TYPED

HEADINGS = {
    "Begin": {
        "demo": "What can Davlo do? See it on a made-up garden's website.",
        "start": "How do I begin, from nothing or from what I have?",
    },
    "See": {
        "tree": "Which pages are there, and what does each get?",
        "show": "What does this page get, and from where?",
        "list": "What is declared, and which pages use it?",
        "menus": "Which links has the menu, or a list of links, in order?",
        "picture": "What do pages look like? Which page has which value?",
    },
    "Understand": {
        "why": "Why does this page have this value, and how do I change it?",
        "check": "What contradicts what?",
        "access": "Who may do what, and what does this person see?",
        "compare": "What differs from another folder, git revision or built site?",
    },
    "Change": {
        "declare": "What would declaring this, or changing it, change?",
        "set": "What would setting this value change?",
        "unset": "What would change without this statement?",
        "page": "What would a page added, moved or dropped change?",
        "rename": "What would change if this had another name, everywhere?",
        "mend": "How can this finding be mended, and what would that change?",
        "condense": "Can fewer statements say the same?",
        "undo": "What would taking the last write back change?",
    },
    "Many sites": {"estate": "What do all sites get that begin with the same defaults?"},
    "Search engines": {
        "sitemap": "What do search engines get?",
        "crawler-files": "Which files do search engines read, and what is new in them?",
        "announce": "What changed since search engines were last told?",
    },
    "Share": {
        "export": "What is every page's value, for other programs?",
        "report": "What can I hand to colleagues? One page with the whole site.",
        "schema": "What may stand in davlo.yaml? For editors that check it.",
    },
}
"""For each heading its commands, each with the question that it answers; its help begins with that."""
_ROOMS = {"See": "questions", "Understand": "questions", "Change": "changes"}
NOTES = {"Change": "each shows its reach first; --write writes it"}
"""What all commands under a heading have in common."""
COMMANDS = {name: question for commands in HEADINGS.values() for name, question in commands.items()}
MODULES = {
    name: f"davlo.cli.{_ROOMS.get(heading, 'outputs')}.{name.replace('-', '_')}"
    for heading, commands in HEADINGS.items()
    for name in commands
} | {"estate": "davlo.cli.estate.estate"}
"""The module of each command."""
PAGE_COMMANDS = {
    "add": "What would a new page get? Add it.",
    "set": "What would other details of a page change?",
    "move": "What would change if this page had another path?",
    "drop": "What would go with this page?",
    "refresh": "What changed in the pages that I have? Bring the page list up to date.",
    "restamp": "Which pages have an outdated stamp? Bring them up to date.",
}
"""The commands of `davlo page`."""


ESTATE_COMMANDS = {
    "sites": "Which sites are there, and how do they differ from the house style?",
    "check": "What contradicts what, in all sites and across them?",
    "export": "What is every page's value, of all sites?",
    "compare": "What differs from a git revision, site by site?",
    "report": "What can I hand to colleagues? A page for each site, and one that lists them.",
    "set": "What would setting this value for all sites change?",
    "unset": "What would change without this shared default?",
    "declare": "What would declaring this for all sites change?",
    "undo": "What would taking the last write of the shared files back change?",
}
"""The commands of `davlo estate`."""
GROUPS = {"page": PAGE_COMMANDS, "estate": ESTATE_COMMANDS}
"""The commands that have commands of their own."""


class Question(click.Command):
    """A command that answers a question: its help begins with the question, and ends with examples."""

    def __init__(self, *args: Any, examples: tuple[str, ...] = (), **options: Any) -> None:
        super().__init__(*args, **options)
        self.examples = examples

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Parse the words that were typed; an option that takes one value is refused the second time."""
        order = self.make_parser(ctx).parse_args(args=[*args])[2] if not ctx.resilient_parsing else []
        for one, times in Counter(order).items():
            takes_one = isinstance(one, click.Option) and not (one.multiple or one.is_flag or one.count)
            if times > 1 and takes_one:
                raise click.UsageError(f"{one.opts[0]} is said {times} times, and takes one value: say it once", ctx)
        return super().parse_args(ctx, args)

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        write_examples(self.examples, formatter)


def write_examples(examples: tuple[str, ...], formatter: click.HelpFormatter) -> None:
    """Add the examples to a command's help, a line each, and the first lines that the first of them prints."""
    from .first_lines import FIRST_LINES

    printed = FIRST_LINES.get(examples[0], ()) if examples else ()
    for heading, lines in (("Examples", examples), ("What the first one prints", printed)):
        if lines:
            with formatter.section(heading):
                for line in lines:
                    formatter.write(f"{' ' * formatter.current_indent}{line}\n")


def answers(name: str, *examples: str) -> Callable[[Callable[..., Any]], Question]:
    """Make a function the command of this name; its docstring says what the command does, after the question.

    `name`: a command of `COMMANDS`, or a group of `GROUPS` and a command of it. `examples`: what people mostly type,
    the commonest first.
    """

    def decorate(function: Callable[..., Any]) -> Question:
        group, _, own = name.rpartition(" ")
        question = GROUPS[group][own] if group else COMMANDS[name]
        return click.command(
            own, cls=Question, help=f"{question}\n\n{inspect.cleandoc(function.__doc__ or '')}", examples=examples
        )(function)

    return decorate


def bare_use(error: click.UsageError) -> tuple[str, ...]:
    """What people mostly type of a command that was typed without any words; else nothing."""
    ctx = error.ctx
    examples: tuple[str, ...] = getattr(ctx.command, "examples", ()) if ctx else ()
    if ctx is None or not examples:
        return ()
    typed = [word for word in ctx.meta.get(TYPED, ()) if not word.startswith("--site=")]
    at = typed.index("--site") if "--site" in typed else len(typed)
    typed = typed[:at] + typed[at + 2 :]
    return examples[:3] if typed == ctx.command_path.split()[1:] else ()
