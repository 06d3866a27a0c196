"""The kinds that `davlo declare` knows, in the order in which they are listed, and what people type about each."""

from __future__ import annotations

from typing import NamedTuple


class DeclaredKind(NamedTuple):
    """What people type about a kind of declaration."""

    examples: tuple[str, ...]  # what they mostly type
    first_keys: str | None = None  # the keys of a new one, to be filled in; None: a missing name does not ask for one
    to_use: tuple[str, ...] = ()  # what to type next, so that it does something; `{}` is its name
    told: str = ""  # what the help begins with, if it cannot be declared as others are
    named: str = "NAME"  # how the help writes its name


KINDS = {
    "layout": DeclaredKind(
        ("davlo declare layout leaflet based_on=plain areas+=right",),
        first_keys="areas=AREA,AREA",
        to_use=("set", "layout.name={}", "--type", "NAME"),
    ),
    "theme": DeclaredKind(
        ("davlo declare theme dusk areas=masthead,top-links,content area_names.menu=top-links",),
        first_keys="areas=AREA,AREA",
        to_use=("set", "layout.theme={}", "--everywhere"),
    ),
    "sidebar": DeclaredKind(
        ("davlo declare sidebar kids blocks=search-box,opening-times", "davlo declare sidebar kids blocks+=donate"),
        first_keys="blocks=BLOCK,BLOCK",
        to_use=("set", "sidebar.AREA={}", "--below", "PAGE"),
    ),
    "look": DeclaredKind(
        ("davlo declare look slim based_on=usual whole.width=22%",),
        first_keys="whole.width=28%",
        to_use=("set", "look.AREA={}", "--below", "PAGE"),
    ),
    "band": DeclaredKind(
        ("davlo declare band footer-kids fits=footer blocks=legal-line",),
        first_keys="fits=AREA blocks=BLOCK",
        to_use=("set", "band.AREA={}", "--everywhere"),
    ),
    "block": DeclaredKind(
        (
            'davlo declare block hours kind=text text="Open daily 10 to 17"',
            "davlo declare block quick kind=links 'links.Book a place=/visit/tickets'",
        ),
        first_keys="kind=text text=TEXT",
        to_use=("set", "blocks.AREA+={}", "--type", "NAME"),
    ),
    "preset": DeclaredKind(
        ("davlo declare preset calm sidebar.right=none heading.show=no",),
        first_keys="SETTING=VALUE",
        to_use=("set", "--use", "{}", "--below", "PAGE"),
    ),
    "type": DeclaredKind(
        ("davlo declare type workshop based_on=event label=Workshop",),
        first_keys="label=LABEL",
        to_use=("page", "set", "PAGE", "type={}"),
    ),
    "setting": DeclaredKind(
        (
            'davlo declare setting sponsor kind=text label="Who pays for it"',
            "davlo declare setting blocks.content default_for=new-pages",
        ),
        first_keys="kind=text",
        to_use=("set", "{}=VALUE", "--everywhere"),
    ),
    "rule": DeclaredKind(
        (
            "davlo declare rule 'Campaign pages show what to do' --except in_branch=/campaigns/spring",
            "davlo declare rule 'Campaign pages show what to do' --stronger-than 'Hand-built pages run edge to edge'",
        ),
        told="Change when a rule matches, or its place among the rules. To make one: davlo set … --new-rule NAME.",
    ),
    "guarantee": DeclaredKind(
        ("davlo declare guarantee 'The shop stays open' --when in_branch=/visit/shop may.everyone=view",), named="TEXT"
    ),
    "person": DeclaredKind(
        ("davlo declare person noor.haddad --group staff", "davlo declare person ida.marsh --drop"), first_keys=""
    ),
    "group": DeclaredKind(
        ("davlo declare group guides members=ida.marsh,rowan.pike", "davlo declare group guides members+=tomas.vell"),
        first_keys="members=PERSON,PERSON",
        to_use=("set", "access.{}=view,edit", "--here-and-below", "PAGE"),
    ),
    "role": DeclaredKind(
        ("davlo declare role proofing actions=view,edit",),
        first_keys="actions=view,edit",
        to_use=("set", "access.WHO={}", "--here-and-below", "PAGE"),
    ),
    "viewpoint": DeclaredKind(("davlo declare viewpoint /visit/tickets as=ida.marsh",), named="PAGE"),
    "site": DeclaredKind(
        (
            "davlo declare site languages+=de menu.max_entries=8",
            "davlo declare site ownership_proofs.file.quillmere-7e20.txt=quillmere-7e20",
        ),
        told="Change what davlo.yaml says of the site as a whole.",
    ),
}
