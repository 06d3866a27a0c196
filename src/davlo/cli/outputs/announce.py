"""`davlo announce`: tell search engines which addresses changed."""

from __future__ import annotations

import datetime
from contextlib import nullcontext
from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..command_list import answers
from ..options import format_option, open_named_site, site_option, today_option, typed
from ..screen import as_csv, as_json, note, say, table
from ..site_folder import site_folder

if TYPE_CHECKING:
    from davlo.files.announce.announcement import Announcement, Sent

ENDPOINT, KEY = "DAVLO_ANNOUNCE_ENDPOINT", "DAVLO_ANNOUNCE_KEY"
MOST_ADDRESSES = 10
A_KEY = "8 to 128 letters, digits and hyphens"


@answers(
    "announce",
    "davlo announce",
    "davlo announce --rehearse --key quillmere-5d1c0a9e",
    "davlo announce --send --endpoint https://search.example/addresses --key quillmere-5d1c0a9e",
)
@click.option(
    "--endpoint",
    envvar=ENDPOINT,
    metavar="URL",
    default="",
    help=f"Where the search engine takes lists of addresses (default: the environment's {ENDPOINT}).",
)
@click.option(
    "--key",
    envvar=KEY,
    metavar="KEY",
    default="",
    help=f"The key that stands in KEY.txt at the site's root (default: the environment's {KEY}).",
)
@click.option("--send", is_flag=True, help="Send the addresses. Without it nothing is sent.")
@click.option(
    "--rehearse", is_flag=True, help="Send them to a stand-in on this machine, which answers as a search engine would."
)
@click.option(
    "--root",
    type=click.Path(file_okay=False, exists=True),
    metavar="DIR",
    help="With --rehearse: the folder of the files at the site's root (default: where crawler-files wrote last).",
)
@click.option("--all", "everything", is_flag=True, help="List every address.")
@today_option
@format_option("text", "csv", "json")
@site_option
def command(
    endpoint: str,
    key: str,
    send: bool,
    rehearse: bool,
    root: str | None,
    everything: bool,
    today: datetime.date,
    form: str,
    site: str | None,
) -> int:
    """Uses the open protocol for that (indexnow.org): a list of addresses goes to the search engine, which reads a key
    from a file at the site's root. An address is new, or its page was modified or has another title, or it is gone from
    the sitemap. Davlo notes in .davlo/ in the site folder what was taken, and the next time sends only what changed
    since. Where to send, and with which key, comes from you alone, never from the site folder.
    """
    _check_options(endpoint, key, send, rehearse, root)
    folder = site_folder(site)
    opened = open_named_site(site)
    from davlo.files.announce.stand_in import stand_in

    where = stand_in(_root(folder, root)) if rehearse else nullcontext(endpoint)
    with where as address:
        plan = opened.announcement(address, today)
        if not (send or rehearse):
            _show(plan, key, form, everything)
            return 0
        return _send(plan, key, form, rehearse)


def _check_options(endpoint: str, key: str, send: bool, rehearse: bool, root: str | None) -> None:
    """Make sure that the options go together, and can be used."""
    from davlo.files.announce.protocol import is_key, why_no_endpoint

    if send and rehearse:
        raise click.UsageError("--send tells the search engine, --rehearse a stand-in: choose one")
    if root is not None and not rehearse:
        raise click.UsageError("--root is for --rehearse")
    why = why_no_endpoint(endpoint) if endpoint else ""
    if why:
        raise click.UsageError(f"the endpoint {_shown(endpoint)} cannot be used: {why}")
    if send and not endpoint:
        raise click.UsageError(f"where to send it? Name the search engine: --endpoint URL, or set {ENDPOINT}")
    if (send or rehearse) and not key:
        raise click.UsageError(f"with which key? It is {A_KEY}, and stands in KEY.txt: --key KEY, or set {KEY}")
    if key and not is_key(key):
        raise click.UsageError(f"{key!r} cannot be a key: it is {A_KEY}")


def _root(folder: Path, root: str | None) -> Path:
    """The folder that stands for the site's root in a rehearsal."""
    from davlo.files.store.last_published import last_published_files

    if root is not None:
        return Path(root)
    last = last_published_files(folder)
    if last is None or not last.to.is_dir():
        raise click.UsageError(
            "nothing is published yet: davlo crawler-files --to DIR --write, or name a folder with --root"
        )
    return last.to


def _shown(endpoint: str) -> str:
    """An endpoint without the name, the password and the query in it; empty if none is named."""
    from davlo.files.store.announced import without_credentials

    return endpoint and without_credentials(endpoint)


def _parts(plan: Announcement) -> list[tuple[str, list[str]]]:
    return [("new", plan.new), ("changed", plan.changed), ("gone", plan.gone)]


def _show(plan: Announcement, key: str, form: str, everything: bool) -> None:
    """What would be sent, and to whom."""
    from davlo.files.announce.protocol import key_address

    parts = _parts(plan)
    if form == "json":
        as_json({"endpoint": _shown(plan.endpoint) or None, **dict(parts), "elsewhere": plan.elsewhere})
        return
    if form == "csv":
        as_csv(("address", "what"), [(address, what) for what, some in parts for address in some])
        return
    told = ", ".join(f"{count(len(some), 'address', 'addresses')} {what}" for what, some in parts if some)
    since = (
        f"since {_shown(plan.endpoint)} was told last, on {plan.before.on}"
        if plan.before.on
        else "nothing was told yet"
    )
    nothing = (
        f"Nothing changed {since}." if plan.before.on else "No page is in the sitemap, so there is nothing to tell."
    )
    say(f"{told}: {since}" if told else nothing)
    for what, some in parts:
        shown = some if everything else some[:MOST_ADDRESSES]
        if some:
            say()
            table(["", ""], [(what if not at else "", address) for at, address in enumerate(shown)], indent="  ")
        if len(shown) < len(some):
            say(f"  and {count(len(some) - len(shown), f'more {what} one')}: add --all")
    say()
    if plan.elsewhere:
        on = count(plan.elsewhere, "address is", "addresses are")
        say(f"note: {on} on other hosts, and not announced here")
    if plan.unpublished:
        differ = count(plan.unpublished, "page differs", "pages differ")
        say(f"note: {differ} from the sitemap that was written last: write it first, with davlo crawler-files")
    if not told:
        return
    say(f"To whom: {_shown(plan.endpoint) or 'no endpoint is named'}")
    say(f"Key file: {key_address(plan.site, key) if key else 'no key is named'}")
    words = ["announce", "--endpoint", _shown(plan.endpoint) or "URL", "--key", key or "KEY"]
    say(f"Nothing is sent. To send it:  {typed(*words, '--send')}")
    say(f"To try it on this machine:    {typed('announce', '--rehearse', '--key', key or 'KEY')}")


def _send(plan: Announcement, key: str, form: str, is_rehearsal: bool) -> int:
    """Send the addresses, and say what the search engine answered."""
    from davlo.files.announce.announcement import INSTALL

    to = "the stand-in on this machine" if is_rehearsal else _shown(plan.endpoint)
    sent: list[Sent] = []
    try:
        for one in plan.send(key, notes=not is_rehearsal):
            sent.append(one)
            if form == "text":
                told = f" ({one.told})" if one.told and not one.answer.is_taken else ""
                say(f"{count(len(one.addresses), 'address', 'addresses')}: {one.answer.words}{told}")
    except ImportError:
        raise click.UsageError(INSTALL) from None
    taken = sum(len(one.addresses) for one in sent if one.answer.is_taken)
    is_all = all(one.answer.is_taken for one in sent)
    whole = taken if is_all else sum(len(some) for _, some in _parts(plan))
    if form == "json":
        rows = [
            {"addresses": [*one.addresses], "taken": one.answer.is_taken, "answer": one.answer.words} for one in sent
        ]
        as_json({"to": to, "taken": taken, "lists": rows})
    elif form == "csv":
        as_csv(("address", "answer"), [(address, one.answer.words) for one in sent for address in one.addresses])
    if not sent:
        note(f"there is nothing to tell {to}: nothing changed since it was told last")
    elif is_all:
        noted = "nothing left this machine, and nothing is noted" if is_rehearsal else "noted, and not sent again"
        note(f"{to} took {'it' if taken == 1 else f'all {taken:,}'}: {noted}")
    else:
        kept = "; they are noted, so the next time begins with the others" if taken and not is_rehearsal else ""
        note(f"{to} took {taken:,} of {count(whole, 'address', 'addresses')}{kept}")
        for line in _advice(sent[-1].answer.words, plan, key):
            note(f"  {line}")
    return 0 if is_all else 1


def _advice(words: str, plan: Announcement, key: str) -> list[str]:
    """What to do about a list that the search engine did not take."""
    from davlo.files.announce.protocol import key_address

    if "key file" in words:
        return [
            f"the key file must be at {key_address(plan.site, key)}; to declare it, and to write it:",
            typed("declare", "site", f"ownership_proofs.file.{key}.txt={key}", "--write"),
            typed("crawler-files", "--to", "DIR", "--write"),
        ]
    return ["send the rest later: run this again"] if "for now" in words or "not taken" in words else []
