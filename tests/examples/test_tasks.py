"""Twenty-one tasks of taking stock, deciding, changing and taking back, by command alone: no file is edited by hand."""

from __future__ import annotations

import shlex
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run, contents

TASKS = {
    "take stock of all pages": ("tree --depth 1", "list"),
    "bring the page list up to date": ("page refresh --from {today} --write --even-so",),
    "give a section a sidebar of its own": (
        "declare sidebar kids blocks=search-box,opening-times --write",
        "set sidebar.right=kids --here-and-below /visit/families --write",
        "picture /visit/families --to {folder}/families.png",
    ),
    "lay out one page otherwise": (
        "declare layout leaflet based_on=plain areas+=right --write",
        "set layout.name=leaflet --here /visit/maps --write",
    ),
    "change the words in a block": ("declare block opening-times text='Open daily 9 to 18' --write",),
    "put a link list into a sidebar": (
        "declare block quick kind=links 'links.Book a place=/visit/tickets' --write",
        "declare sidebar main blocks+=quick --write",
    ),
    "give pages of one type a default": ("set title.limit=70 --type event --write",),
    "set what hand-built pages get, by a rule": (
        "set heading.show=no --new-rule 'Built by hand' --when made_with=potting-bench --write",
        "declare rule 'Built by hand' --weaker-than 'Campaign pages show what to do' --write",
    ),
    "give the site a field of its own": (
        "declare setting sponsor kind=text label='Who pays for it' used_by=program --write",
        "set sponsor='The friends' --below /events --write",
    ),
    "lock the footer, with one exception": (
        "set band.footer --lock --everywhere --except in_branch=/press --write --even-so",
        "set band.footer=footer-press --here /press --write --even-so",
    ),
    "find out which pages are exceptions, and why": ("tree --exceptions sidebar.right", "why /visit/maps layout.name"),
    "let a colleague edit one section": (
        "declare person sam.finch --group staff --write",
        "set access.sam.finch=view,edit --here-and-below /stories --write",
        "access --in-branch /stories",
    ),
    "see what a colleague sees": ("access --as sam.finch", "compare --as sam --as visitor --only menu"),
    "close a branch to the public": (
        "set fresh_access=yes access.staff=view access.editors=view,edit --here-and-below /topics --write",
    ),
    "take a leaver out": ("rename person noor.haddad sam.finch --write --even-so", "list people"),
    "add a page that looks like its neighbours": (
        "page add /plants/trees/walnut audio-guide=walnut.mp3 --write",
        "show /plants/trees/walnut",
    ),
    "move a section, and send its readers on": (
        "page move /visit/cafe /cafe --addresses {folder}/moved.csv --write --even-so",
        "crawler-files --to {folder}/public",
    ),
    "bring pages up to date with a default for new pages": ("page restamp --new --write",),
    "mend a finding, and accept another": (
        "mend {redundant} --way 1 --write --even-so",
        "mend {meant} --accept --because 'We know' --write",
    ),
    "guarantee that something stays so": (
        "declare guarantee 'The shop stays open' --when in_branch=/visit/shop may.everyone=view --write",
        "check",
    ),
    "publish, and take all of it back": ("sitemap --to {folder}/sitemap.xml",),
}
MENDED_BY_TAKING_AWAY = ("redundant-default", "repeats-inherited", "unused-declaration", "below-without-pages")
FINDS_SOMETHING = ("check", "compare")
"""Commands whose status tells whether they found something."""


@pytest.mark.exhaustive
def test_each_task_is_done_without_an_editor_and_all_of_it_is_taken_back(
    own: Path, run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert len(TASKS) == 21
    today = tmp_path / "today.csv"
    rows = (own / "pages.csv").read_text(encoding="utf-8").replace("/visit/shop,Garden shop", "/visit/shop,The shop")
    today.write_text(rows + "/visit/picnic,Picnic,page,,en,,,,,,,,,,,\n", encoding="utf-8")
    before, written = contents(own), 0
    monkeypatch.chdir(own)
    for task, commands in TASKS.items():
        for command in commands:
            names = {"redundant": "", "meant": ""}
            if "{redundant}" in command or "{meant}" in command:
                findings = davlo.open_site(own).check().findings
                notes = [one for one in findings if one.level == "note"]
                names = {"redundant": next(one.name for one in notes if one.kind in MENDED_BY_TAKING_AWAY)}
                names["meant"] = next(one.name for one in notes if one.name != names["redundant"])
            words = shlex.split(command.format(today=today, folder=tmp_path, **names))
            got = run(*words)
            assert got.status == 0 or (words[0] in FINDS_SOMETHING and got.status == 1), (task, command, got.err)
            written += "--write" in words and "wrote " in got.out
    assert written > 20
    after = davlo.open_site(own).resolve()
    assert after["/visit/families/trail"]["sidebar.right"] == "kids"
    assert after["/press"]["band.footer"] == "footer-press"
    assert not after.source("/press", "band.footer").locked
    while contents(own) != before:
        assert run("undo", "--write").status == 0
