"""`davlo declare`: each kind is declared, changed and taken away without an editor, and taken back byte for byte."""

from __future__ import annotations

import re
import shlex
from collections.abc import Callable
from itertools import product
from pathlib import Path

import pytest

import davlo
from davlo.cli.declared_kinds import KINDS
from davlo.core.change.differences.same_state import what_differs
from davlo.core.site.declared_names import DECLARED_KINDS, declared_names
from davlo.files.form.typed_forms import FORMS
from davlo.files.rewrite.typed_declarations import declared_by_words
from tests.conftest import Ask, Run, contents


@pytest.mark.exhaustive
@pytest.mark.parametrize("kind", KINDS)
def test_what_the_help_of_each_kind_shows_can_be_typed_and_taken_back(own: Path, run: Run, kind: str) -> None:
    before = contents(own)
    shown = run("declare", kind, "--help").out
    for example in KINDS[kind].examples:
        assert example in shown
        got = run(*shlex.split(example)[1:], "--write", "--even-so", "--site", str(own))
        assert (got.status, got.err.replace("note: ", "")[:4]) in ((0, ""), (0, "what")), got
    while contents(own) != before:
        davlo.open_site(own).undo()


def test_every_kind_can_be_declared() -> None:
    assert {*DECLARED_KINDS} - {*KINDS} == set()
    assert {*KINDS} - {*DECLARED_KINDS} == {"viewpoint", "site"}


@pytest.mark.exhaustive
@pytest.mark.parametrize("kind", [kind for kind in DECLARED_KINDS if kind not in ("rule", "setting")])
def test_a_declaration_goes_with_what_names_it_and_comes_back_by_undo(own: Path, run: Run, kind: str) -> None:
    before, site = contents(own), davlo.open_site(own)
    gone = 0
    for name in site.types.declared if kind == "type" else declared_names(site, kind):
        change = davlo.Change().undeclare(kind, name, everywhere=kind != "guarantee")
        try:
            if gone:
                davlo.open_site(own).write(change, even_so=True)
            else:  # the first by the command
                everywhere = [] if kind in ("guarantee", "person") else ["--everywhere-named"]
                got = run("declare", kind, name, "--drop", *everywhere, "--write", "--even-so", "--site", str(own))
                if got.status:
                    raise davlo.DavloError(got.err)
        except davlo.DavloError as error:
            assert re.search("names the|would be no setting|is not declared", str(error)), error  # noqa: PT017
            continue
        gone += 1
        after = davlo.open_site(own)
        assert name not in (after.types.declared if kind == "type" else declared_names(after, kind))
        assert what_differs(site.apply(change), after) == ""
        after.undo()
        assert contents(own) == before
    assert gone


def test_first_without_an_item_to_add_is_refused(garden: Path, run: Run) -> None:
    got = run("declare", "sidebar", "main", "blocks=search-box", "--first", "--site", str(garden))
    assert (got.status, "--first goes with KEY+=ITEM" in got.err) == (2, True)


def test_a_declaration_that_is_named_is_not_dropped_alone(own: Path, run: Run) -> None:
    got = run("declare", "sidebar", "main", "--drop", "--write", "--site", str(own))
    assert (got.status, "davlo declare sidebar main --drop --everywhere-named" in got.err) == (2, True)
    assert davlo.open_site(own).declarations.sidebars["main"]


def test_lists_grow_and_shrink_and_keys_go(own: Path, run: Run) -> None:
    def declare(*words: str) -> davlo.Site:
        assert run("declare", *words, "--write", "--site", str(own)).status == 0
        return davlo.open_site(own)

    assert declare("sidebar", "kids", "blocks=search-box; donate", "label=For, kids").declarations.sidebars[
        "kids"
    ].blocks == ("search-box", "donate")
    kids = declare("sidebar", "kids", "blocks+=opening-times", "--first").declarations.sidebars["kids"]
    assert kids.blocks == ("opening-times", "search-box", "donate")
    kids = declare("sidebar", "kids", "blocks-=donate", "label=").declarations.sidebars["kids"]
    assert (kids.blocks, kids.label) == (("opening-times", "search-box"), "")
    leaflet = declare("layout", "leaflet", "based_on=plain", "areas+=right").declarations.layouts["leaflet"]
    assert leaflet.areas == ("masthead", "menu", "content", "footer", "right")


def test_every_fault_is_told_at_once_with_the_near_name(own: Path, run: Run) -> None:
    before = contents(own)
    got = run("declare", "sidebar", "kids", "blocks=serch-box", "blnk=yes", "blank=perhaps", "--site", str(own))
    assert got.status == 2
    for told in ("did you mean search-box?", "did you mean blank?", "blank takes yes or no, not 'perhaps'"):
        assert told in got.err
    assert contents(own) == before


def test_rules_change_and_move(own: Path, run: Run) -> None:
    before, rules = contents(own), [rule.name for rule in davlo.open_site(own).rules]
    words = ("declare", "rule", rules[0], "--weaker-than", rules[1], "note=Drawn by hand", "--except", "home=yes")
    got = run(*words, "--write", "--even-so", "--site", str(own))
    assert got.status == 0, got.err
    site = davlo.open_site(own)
    assert [rule.name for rule in site.rules] == [rules[1], rules[0], *rules[2:]]
    assert (site.rules[1].note, site.rules[1].excepts[0].home) == ("Drawn by hand", True)
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before
    assert "--new-rule Other --when CONDITION" in run("declare", "rule", "Other", "note=x", "--site", str(own)).err
    assert run("declare", "rule", rules[0], "--drop", "--write", "--even-so", "--site", str(own)).status == 0
    assert [rule.name for rule in davlo.open_site(own).rules] == rules[1:]


def test_a_person_joins_and_leaves(own: Path, run: Run) -> None:
    assert run("declare", "person", "lutz.oster", "--group", "editors", "--write", "--site", str(own)).status == 0
    assert run("set", "access.lutz.oster=view", "--here", "/staff/rota", "--write", "--site", str(own)).status == 0
    assert "lutz.oster" in davlo.open_site(own).people.members_of("editors")
    assert run("declare", "person", "lutz.oster", "--drop", "--write", "--site", str(own)).status == 0
    assert b"lutz" not in b"".join(contents(own).values())


def test_a_preset_that_is_used_changes_its_pages(ask: Ask) -> None:
    told = ask("declare", "preset", "bare", "heading.show=yes")
    assert "4 pages look different, 4 pages change" in told


def test_only_admins_declare(own: Path, run: Run) -> None:
    got = run("declare", "sidebar", "kids", "--as", "ida.marsh", "--write", "--site", str(own))
    assert (got.status, "only admins may do that" in got.err) == (1, True)


def test_what_is_not_declared_says_how_to_declare_it(garden: Path, run: Run) -> None:
    for words, way in {
        ("sidebar.right=kids", "--everywhere"): "davlo declare sidebar kids blocks=BLOCK,BLOCK",
        ("blocks.content+=kids", "--everywhere"): "davlo declare block kids kind=text text=TEXT",
        ("access.kids=view", "--everywhere"): "davlo declare group kids members=PERSON,PERSON",
        ("menu.show=no", "--type", "kids"): "davlo declare type kids label=LABEL",
    }.items():
        got = run("set", *words, "--site", str(garden))
        assert (got.status, way in got.err.replace(f" --site {garden}", "")) == (2, True), got.err


def test_the_site_gets_another_address_and_another_home_page(own: Path, run: Run) -> None:
    before, where = contents(own), ("--site", str(own), "--write", "--even-so")
    assert "158 addresses change" in run("declare", "site", "url=https://new.example", *where).out
    assert run("declare", "site", "home=/visit", *where).status == 0
    site = davlo.open_site(own)
    assert (site.url, site.home_path) == ("https://new.example", "/visit")
    for _ in range(2):
        assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before
    for words, told in (("home=/vist", "did you mean /visit?"), ("url=new.example", "begins with https://")):
        got = run("declare", "site", words, *where)
        assert (got.status, told in got.err) == (2, True), got.err
    text = (own / "pages.csv").read_text(encoding="utf-8").replace("\n/visit,", "\nhttps://quillmere.example/visit,", 1)
    (own / "pages.csv").write_text(text, encoding="utf-8")
    assert "has full addresses" in run("declare", "site", "url=https://new.example", *where).err


ROLES = """people: {names: [ann, bo], groups: {crew: [ann], guests: [bo]}}
roles:
  tending: [view, edit]
presets:
  open:
    access: {guests: [tending]}
guarantees:
  - name: Crew
    when: {in_branch: /a}
    may: {crew: [tending]}
everywhere:
  access: {crew: [tending, create], everyone: [view, edit]}
pages:
  /a: {here: {use: open}}
  /a/b:
    below: {access: {crew: {add: [tending, move]}}}
"""


def test_a_role_holds_other_actions_wherever_it_is_named(small: Callable[..., Path], run: Run) -> None:
    folder = small(
        ROLES, files={"values.csv": "where,setting,value,because\nhere /a/b,access.guests,tending; create,\n"}
    )
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("{name:", "{values: [values.csv], name:"))
    before, site = contents(folder), davlo.open_site(folder)
    words = ["declare", "role", "tending", "actions+=delete", "actions-=edit", "--site", str(folder)]
    assert "guests" in run(*words).out
    got = run(*words, "--write", "--even-so")
    assert (got.status, got.err.replace("note: ", "")[:4]) in ((0, ""), (0, "what")), got
    after = davlo.open_site(folder)
    shown = after.resolve()
    assert shown["/"]["access.crew"] == ("view", "delete", "create")
    assert shown["/"]["access.everyone"] == ("view", "edit")  # it says so itself
    assert shown["/a"]["access.guests"] == ("view", "delete")
    assert shown["/a/b"]["access.guests"] == ("view", "delete", "create")
    assert after.guarantees[0].may == {"crew": ("view", "delete")}
    record = site.declarations.roles["tending"]._replace(actions=("view", "delete"))
    assert what_differs(site.apply(davlo.Change().declare(record)), after) == ""
    after.undo()
    assert contents(folder) == before


def test_lines_for_robots_and_actions_of_the_sites_own_come_and_go(own: Path, run: Run) -> None:
    before = (own / "davlo.yaml").read_text()
    site = ["--site", str(own)]
    added = run("declare", "site", "robots+=Disallow: /drafts", "actions+=translate", "--write", *site)
    assert (added.status, "the site: robots is User-agent: *, Disallow: /search?, Disallow: /drafts" in added.out) == (
        0,
        True,
    )
    after = (own / "davlo.yaml").read_text()
    assert after.startswith(before)  # a text in lines stays one, with its comment
    assert davlo.open_site(own).actions[-2:] == ("grant", "translate")
    assert run("declare", "site", "robots-=Disallow: /search?", "--write", *site).status == 0
    assert "Disallow: /search" not in (own / "davlo.yaml").read_text()
    refused = run("declare", "site", "actions-=create", *site)
    assert (refused.status, "the role tending (people.yaml:24) names the action create" in refused.err) == (2, True)
    refused = run("declare", "site", "robots+=Disallow: x", *site)
    assert (refused.status, "Disallow: /x" in refused.err) == (2, True)
    davlo.open_site(own).undo()
    davlo.open_site(own).undo()
    assert (own / "davlo.yaml").read_text() == before


@pytest.mark.parametrize(
    "robots",
    [
        "robots: |  # ours\n  User-agent: *\n  Disallow: /a\n",
        "robots: |-\n  User-agent: *\n  Disallow: /a\n",
        "robots: |2\n  User-agent: *\n  Disallow: /a\n",
        "robots: >\n  User-agent: *\n\n  Disallow: /a\n",
        'robots: ["User-agent: *", "Disallow: /a"]\n',
        "robots:\n  - |\n    User-agent: *\n    Disallow: /a\n",
        "",
    ],
)
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_lines_for_robots_are_written_however_they_stand(
    small: Callable[..., Path], run: Run, robots: str, end: str
) -> None:
    folder = small()
    file = folder / "davlo.yaml"
    file.write_bytes((file.read_text() + robots + "menu: {max_entries: 7}\n").replace("\n", end).encode())
    before = file.read_bytes()
    typed = "robots+=Disallow: /b" if robots else "robots=User-agent: *; Disallow: /b"
    for words in (typed, "robots-=Disallow: /b"):
        got = run("declare", "site", words, "--write", "--site", str(folder))
        assert got.status == 0, got.err
        lines = [line.text for line in davlo.open_site(folder).robots]
        assert (lines[0], lines[-1] == "Disallow: /b") == ("User-agent: *", words == typed)
    assert davlo.open_site(folder).max_entries == 7
    davlo.open_site(folder).undo()
    davlo.open_site(folder).undo()
    assert file.read_bytes() == before


@pytest.mark.parametrize(
    "proofs",
    [
        "  ownership_proofs: {file: a.txt, text: a}\n",
        "  ownership_proofs: [{file: a.txt, text: a}]\n",
        "  ownership_proofs:  # for two of them\n  - {file: a.txt, text: a}  # the first\n  - tag: proof\n    text: b\n",
        "",
    ],
)
def test_proofs_of_ownership_come_change_and_go_however_they_stand(
    small: Callable[..., Path], run: Run, proofs: str
) -> None:
    folder = small()
    file = folder / "davlo.yaml"
    text = 'davlo: 1\nsite:\n  name: Small\n  url: "https://small.example"\n' + proofs
    file.write_text(text)
    here = ["--site", str(folder)]

    def declared(*words: str) -> str:
        got = run("declare", "site", *words, "--write", *here)
        assert got.status == 0, got.err
        return got.out

    words = [f"ownership_proofs.{one}" for one in ("file.known/c.d.txt=c d", "tag.proof=e", "file.a.txt=")]
    out = declared(*(words if proofs else words[:2]))
    assert "; the head of 1 page changes" in out
    found = {(one.file, one.tag, one.text) for one in davlo.open_site(folder).ownership_proofs}
    assert found == {("known/c.d.txt", "", "c d"), ("", "proof", "e")}
    assert ("# for two of them" in file.read_text()) == ("# for two of them" in proofs)
    out = declared("ownership_proofs.file.known/c.d.txt=", "ownership_proofs.tag.proof=")
    assert 'head: 1 page loses <meta name="proof" content="e">: /' in out
    assert davlo.open_site(folder).ownership_proofs == ()
    davlo.open_site(folder).undo()
    davlo.open_site(folder).undo()
    assert file.read_text() == text
    refused = run("declare", "site", "page_list=x.csv", "ownership_proofs.file.robots.txt=x", *here)
    assert (refused.status, "change it in davlo.yaml" in refused.err) == (2, True)


def test_one_key_of_the_site_changes_twice_in_one_change(own: Path) -> None:
    site = davlo.open_site(own)
    change = davlo.Change().set_site("languages", ("en", "fr", "de")).set_site("languages", ("en", "fr", "de", "it"))
    assert site.write(change).site.languages == ("en", "fr", "de", "it")


def test_a_preset_gets_its_first_value_while_no_scope_uses_it(small: Callable[..., Path], run: Run) -> None:
    folder = small("presets:\n  calm: {note: Nothing yet}\n")
    here = ["--site", str(folder)]
    assert run("declare", "preset", "calm", "heading.show=no", *here).status == 0
    assert run("set", "--use", "calm", "--everywhere", "--write", *here).status == 0
    again = run("set", "--use", "calm", "--everywhere", "--write", *here)
    assert (again.status, "the files say so already" in again.out + again.err) == (0, True)
    assert (folder / "davlo.yaml").read_text().count("calm") == 2  # where it is declared, and where it is used
    refused = run("declare", "preset", "calm", "heading.show=no", *here)
    assert (refused.status, "uses it: write its first value into davlo.yaml" in refused.err) == (2, True)
    assert run("declare", "preset", "calm", "--drop", *here).status == 2
    assert "calm" not in run("check", "--kind", "unused-declaration", *here).out


def test_a_preset_that_goes_takes_the_access_settings_that_it_alone_names(small: Callable[..., Path]) -> None:
    site = davlo.open_site(small("presets: {calm: {deny: {everyone: [edit]}}}\neverywhere: {use: calm}\n"))
    assert "deny.everyone" in site.catalogue.names()
    written = site.write(davlo.Change().undeclare("preset", "calm", everywhere=True), even_so=True)
    assert "deny.everyone" not in written.site.catalogue.names()


def test_a_key_of_any_kind_is_taken_or_refused_however_it_is_typed() -> None:
    """A name after a key that holds one value, a list's signs on a flag, no name, no value."""
    site, refused, taken = davlo.open_demo(), 0, 0
    for kind, form in FORMS.items():
        names = ["/visit"] if kind == "viewpoint" else [*declared_names(site, kind)][:2] if kind != "site" else []
        for name, key in product([*names, "a-new"], form.fields):
            for rest in (".x=3", ".=3", ".x.y=", ".x+=3", "+=3", "-=3", "=3", "=", ".width=3"):
                try:
                    site.apply(davlo.Change(declared_by_words(site, kind, name, [key + rest])))
                    taken += 1
                except davlo.DavloError:
                    refused += 1
    assert min(refused, taken) > 50


def test_a_name_after_a_key_that_holds_one_value_is_refused(own: Path, run: Run) -> None:
    for words, told in (
        (["site", "menu.max_entries.x=3"], "menu.max_entries takes one value: write menu.max_entries=VALUE"),
        (["sidebar", "main", "note.x=3"], "note takes one value: write note=VALUE"),
        (["block", "quick-links", "links.=/a"], "write links.NAME=VALUE"),
    ):
        got = run("declare", *words, "--site", str(own))
        assert (got.status, told in got.err) == (2, True), got.err
