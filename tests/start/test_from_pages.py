"""`davlo start DIR --from FOLDER`: built HTML pages, read by the web's conventions."""

from __future__ import annotations

from pathlib import Path

import pytest

import davlo

from .built_garden import SELECTORS, build_garden


class Begun:
    """The garden, its built pages, and the site that is begun from them."""

    def __init__(self, folder: Path) -> None:
        self.before = davlo.open_demo()
        self.pages = build_garden(self.before, folder / "public")
        (folder / "parts.yaml").write_text(SELECTORS, encoding="utf-8")
        self.made = davlo.start_site_from(folder / "begun", [folder / "public"], regions=folder / "parts.yaml")
        self.after = davlo.open_site(folder / "begun")


@pytest.fixture(scope="module")
def begun(tmp_path_factory: pytest.TempPathFactory) -> Begun:
    return Begun(tmp_path_factory.mktemp("built"))


def test_it_has_the_pages_titles_and_languages(begun: Begun) -> None:
    assert sorted(begun.after.tree.paths.tolist()) == sorted(begun.pages)
    before, after = begun.before.resolve().outcomes, begun.after.resolve().outcomes
    for path in begun.pages:
        assert after.of(path).title == before.of(path).title
    assert (begun.after.name, begun.after.url, begun.after.languages) == (
        "Quillmere Botanic Garden",
        "https://quillmere.example",
        ("en", "fr"),
    )
    for name in ("language", "translates", "modified", "type"):
        one, other = (
            [site.facts.columns[name][site.tree.number(path)] for path in begun.pages]
            for site in (begun.before, begun.after)
        )
        assert other == one, name


@pytest.mark.parametrize(
    "setting", ["title.show", "robots.index", "sidebar.right", "sidebar.left", "band.footer", "band.masthead"]
)
def test_pages_that_had_the_same_value_have_the_same_value(begun: Begun, setting: str) -> None:
    before, after = begun.before.resolve(), begun.after.resolve()
    pairs = {
        (str(before[path][setting]), str(after[path][setting]))
        for path in begun.pages
        if setting.partition(".")[2] not in ("right", "left", "footer", "masthead")
        or setting.partition(".")[2] in begun.before.declarations.layouts[str(before[path]["layout.name"])].areas
    }
    assert len({one for one, _ in pairs}) == len({other for _, other in pairs}) == len(pairs), pairs


def test_it_says_so_with_few_statements(begun: Begun) -> None:
    assert begun.made.statements + begun.made.exceptions <= 1.2 * len(begun.before.statements)
    assert begun.made.explained > 0.95
    assert not [fault for fault in begun.after.check().findings if fault.level == "error"]


def test_the_menu_is_that_of_the_site(begun: Begun) -> None:
    for language in ("en", "fr"):
        one, other = (
            [(link.page, link.label) for link in site.links(language=language).links() if link.level == 1]
            for site in (begun.before, begun.after)
        )
        assert other == one
