"""All kinds of finding, in the order in which one cause is told: each with its level, what it means, and what finds it.

`why` says why it matters, `mend` how people mend it; `davlo check --explain KIND` and docs/findings.md tell them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from . import access_kinds as access
from . import decision_kinds as decisions
from . import idle_kinds as idle
from . import layout_kinds as layouts
from . import name_kinds as naming
from . import promise_kinds as promises
from . import sitemap_kinds as sitemap
from . import structure_kinds as structure
from . import title_kinds as titles
from .context import FindingContext
from .finding import Finding
from .folded_setting import FoldedSetting

Find = Callable[[FindingContext], Iterator[Finding]]
FindOf = Callable[[FindingContext, FoldedSetting], Iterator[Finding]]


class Kind(NamedTuple):
    """A kind of finding.

    Attributes
    ----------
    name, level, topic : str
    meaning : str
        What it means, in a line.
    why, mend : str
        Why it matters, and how people mend it.
    find : function, optional
        Finds those of the site.
    of_setting : function, optional
        Finds those of one setting of which something is said; a kind has one of the two. What finds an `accept` that
        matches nothing is `check` itself.
    """

    name: str
    level: str
    topic: str
    meaning: str
    why: str
    mend: str
    find: Find | None = None
    of_setting: FindOf | None = None


class _Topic(NamedTuple):
    """Makes the kinds of a topic."""

    name: str

    def of_site(self, kind: str, level: str, meaning: str, why: str, mend: str, find: Find) -> Kind:
        return Kind(kind, level, self.name, meaning, why, mend, find)

    def of_setting(self, kind: str, level: str, meaning: str, why: str, mend: str, find: FindOf) -> Kind:
        return Kind(kind, level, self.name, meaning, why, mend, of_setting=find)


def _decisions() -> Iterator[Kind]:
    on = _Topic("decisions")
    yield on.of_setting(
        "lock-clash",
        "error",
        "two locks meet on a page with different values",
        "Both say that nothing may change the value, and only one can hold: the one of the weaker scope.",
        "Agree on who decides. Take one of the locks away, or let both say the same.",
        decisions.lock_clash,
    )
    yield on.of_setting(
        "lock-overrules",
        "error",
        "a lock overrules a stronger statement",
        "Somebody wrote an exception and believes that it holds. It does not.",
        "Take the exceptions away, or lift the lock if the exceptions were right.",
        decisions.lock_overrules,
    )
    yield on.of_setting(
        "type-below-clash",
        "warning",
        "a page's type and its branch say different things",
        "The branch wins. Whoever wrote the default of the type will wonder where it went.",
        "Write a rule that says which holds for pages of that type in that branch; or take one of the two away.",
        decisions.type_below_clash,
    )
    yield on.of_setting(
        "rules-overlap",
        "warning",
        "two rules that meet a page differ",
        "The rule nearer the top wins. Moving a rule changes these pages, though nothing else was changed.",
        "Give the weaker rule an `except` for these pages, or move it above the other if it should win.",
        decisions.rules_overlap,
    )
    yield on.of_setting(
        "no-effect",
        "note",
        "a page says what it would get anyway",
        "It does nothing today; when the default changes, this page alone will stay behind.",
        "Take it away; or leave it if the page is meant to stay as it is, and say why in `because`.",
        decisions.no_effect,
    )
    yield on.of_setting(
        "behind-default",
        "note",
        "a stamp, or the lack of one, differs from what a new page would get",
        "Stamped settings stay as they were when a page was made. What became the default since has not come to these.",
        "Bring the pages up to date if the new default is better for them too. A stamp is meant to stay otherwise.",
        decisions.behind_default,
    )
    yield on.of_site(
        "no-such-page",
        "warning",
        "a statement, a stamp or a block names a page that is not there",
        "Pages are moved and deleted; what was said of them stays behind, does nothing, and comes to life again when "
        "somebody makes a page of that path.",
        "Name the page by its new path, or take the statement away.",
        naming.no_such_page,
    )
    yield on.of_site(
        "idle-stamp",
        "note",
        "stamps of a setting that is not stamped",
        "Somebody expects the pages to keep these values. They follow the defaults.",
        "Make the setting stamped, or take the stamps away.",
        naming.idle_stamp,
    )
    yield on.of_site(
        "near-miss",
        "warning",
        "a column of the inventory is nearly named as a setting",
        "A column that is named as a setting holds the pages' own values; one with a slip in its name holds facts that "
        "nobody reads.",
        "Name the column exactly as the setting, or give it a name that is not so much like it.",
        naming.near_miss,
    )
    yield Kind(
        "idle-accept",
        "note",
        "decisions",
        "an entry of accept that matches nothing",
        "What it silenced is gone, or has changed. It would silence the next one like it unseen.",
        "Take the entry away, or mend its kind, setting, when or name.",
    )
    yield on.of_site(
        "undeclared-type",
        "warning",
        "pages have a type that nobody declared",
        "An undeclared type stands alone: what is said of `page` or of any other type does not hold for its pages.",
        "Declare the type and what it is based on, or mend the slip in the inventory.",
        naming.undeclared_type,
    )
    yield on.of_site(
        "unknown-language",
        "warning",
        "pages have a language that the site does not list",
        "Rules on languages, addresses and alternates in the sitemap go by the list of the site.",
        "Add the language to the site's list, or mend the inventory.",
        naming.unknown_language,
    )
    yield on.of_site(
        "not-applicable",
        "note",
        "a statement reaches only pages that do not have the setting",
        "It cannot do anything: the pages' types go without the setting, or it is for other types.",
        "Take it away, or say it where pages have the setting.",
        idle.not_applicable,
    )
    yield on.of_site(
        "missing-value",
        "warning",
        "a live page has nothing for a setting that is required",
        "Readers meet a gap: the site said that each page of the type should have something here.",
        "Fill the inventory's column, or give a default.",
        naming.missing_value,
    )


def _structure() -> Iterator[Kind]:
    on = _Topic("structure")
    yield on.of_site(
        "dead-rule",
        "warning",
        "a rule meets no page",
        "Somebody believes that the rule takes care of something.",
        "Mend its `when` or its `except`, or take it away.",
        idle.dead_rule,
    )
    yield on.of_site(
        "hidden-rule",
        "warning",
        "a rule changes none of the pages that it meets",
        "What it gives is beaten everywhere, or is what the pages have anyway.",
        "Take it away, or move it above the rule that beats it.",
        idle.hidden_rule,
    )
    yield on.of_site(
        "childless-below",
        "note",
        "something is said below a page that has no pages beneath",
        "It does nothing until there are some. Often the page itself was meant.",
        "Say it `here`, or leave it for pages that are still to come.",
        idle.childless_below,
    )
    yield on.of_site(
        "empty-type",
        "note",
        "a declared type has no page",
        "What it says holds for nobody. Often a type was renamed in the inventory and not here.",
        "Take the type away, or give it to pages.",
        idle.empty_type,
    )
    yield on.of_site(
        "idle-default",
        "note",
        "a default changes nothing on any page",
        "It is noise: whoever reads it believes that something hangs on it.",
        "Take it away; or leave it if it must hold when weaker defaults change.",
        idle.idle_default,
    )
    yield on.of_site(
        "unused-declaration",
        "note",
        "a declaration that no statement and no other declaration names",
        "Declarations that nobody uses make the list of those that are used hard to read.",
        "Take it away, or use it.",
        naming.unused_declaration,
    )
    yield on.of_site(
        "unused-setting",
        "note",
        "a setting of the site's own that no statement sets",
        "Every page has what is built in, so that it tells nothing.",
        "Say it somewhere, or take the setting away.",
        naming.unused_setting,
    )
    yield on.of_site(
        "unread-setting",
        "warning",
        "a setting of the site's own that is set, and that nothing shows",
        "People fill it in, and no reader meets it: what is named in `used_by` stands on none of those pages.",
        "Put what shows it on the pages, or name in `used_by` what does.",
        naming.unread_setting,
    )
    yield on.of_site(
        "cut-off-in-menu",
        "warning",
        "a page shows in the menu, but one above it does not",
        "The page is not in the menu, whatever it says: a menu leads to a page through those above it.",
        "Hide what is below too (`here_and_below`), or show the page above.",
        structure.cut_off_in_menu,
    )
    yield on.of_site(
        "menu-too-long",
        "warning",
        "the top menu has more entries than it has room for",
        "What is past the room wraps, or is cut, on every page of the site.",
        "Hide some, move them under another page, or raise `menu: {room: …}` if there is room.",
        structure.menu_too_long,
    )
    yield on.of_site(
        "unlinked-page",
        "note",
        "a live page that no menu and no block of links leads to",
        "Readers can only come from elsewhere. Sometimes that is meant, as for a page of thanks.",
        "Show it in the menu or in a block of links; or accept it.",
        structure.unlinked_page,
    )


def _titles() -> Iterator[Kind]:
    on = _Topic("titles")
    yield on.of_site(
        "duplicate-title",
        "warning",
        "live pages of one language share a document title",
        "In tabs, bookmarks and search results nobody can tell them apart.",
        "Decide what tells them apart; change a title, or put {parent} or {branch} into the pattern.",
        titles.duplicate_title,
    )
    yield on.of_site(
        "long-title",
        "note",
        "a document title is longer than title.limit",
        "Search engines and tabs cut it.",
        "Shorten the title or the pattern, or raise the limit.",
        titles.long_title,
    )
    yield on.of_site(
        "empty-title",
        "warning",
        "a page has no document title",
        "Tabs and search results show the address instead.",
        "Give the page a title, or use a pattern that says something without it.",
        titles.empty_title,
    )
    yield on.of_setting(
        "unknown-placeholder",
        "error",
        "a pattern has a placeholder that is no word of ours and no fact",
        "It stays as it stands: readers see the braces.",
        "Mend the name; a brace itself is written twice.",
        titles.unknown_placeholder,
    )
    yield on.of_site(
        "no-heading",
        "note",
        "a page shows no heading, and no block supplies one",
        "Who reads with a screen reader, and search engines, find the page by its heading.",
        "Show the title, or say `supplies: heading` of the block that carries the name.",
        titles.no_heading,
    )


def _layouts() -> Iterator[Kind]:
    on = _Topic("layouts")
    yield on.of_setting(
        "no-such-area",
        "warning",
        "something is set for an area that the page's layout lacks",
        "Nobody will see it, though it was set as closely as the layout, or more so.",
        "Choose a layout that has the area, or set it to none there.",
        layouts.no_such_area,
    )
    yield on.of_site(
        "area-missing-in-theme",
        "warning",
        "something stands in an area that the page's theme has no place for",
        "The theme shows nothing there, or something else, and the legal line in the footer is gone.",
        "Say in the theme what it shows instead, or choose another theme.",
        layouts.area_missing_in_theme,
    )
    yield on.of_setting(
        "band-does-not-fit",
        "error",
        "a band stands in an area that it does not say it fits",
        "It was made for another place and may look broken.",
        "Choose a band that fits, or add the area to its `fits`.",
        layouts.band_does_not_fit,
    )
    yield on.of_setting(
        "empty-sidebar",
        "warning",
        "a sidebar with no blocks stands on a page",
        "A column is kept free for nothing.",
        "Give it blocks, or say `blank: yes` if it is meant to be empty.",
        layouts.empty_sidebar,
    )
    yield on.of_setting(
        "sidebar-on-no-device",
        "warning",
        "a sidebar stands, and its look is shown on no device",
        "It is set, and nobody sees it.",
        "Name devices in `shows_on` of the look, or set the sidebar to none.",
        layouts.sidebar_on_no_device,
    )
    yield on.of_site(
        "phone-order-incomplete",
        "warning",
        "layout.phone-order leaves out an area where something stands, or names one that the layout lacks",
        "On a phone what is left out comes last, in the layout's order.",
        "Name every area where something stands.",
        layouts.phone_order_incomplete,
    )
    yield on.of_site(
        "sidebars-too-wide",
        "warning",
        "the sidebars take more than 60 per cent of the width",
        "Too little is left to the content.",
        "Choose a narrower look, or take a sidebar away.",
        layouts.sidebars_too_wide,
    )
    yield on.of_site(
        "same-sidebar-twice",
        "warning",
        "one sidebar stands in two areas of a page",
        "Readers meet the same blocks twice.",
        "Set one of the two to none, or to another sidebar.",
        layouts.same_sidebar_twice,
    )
    yield on.of_site(
        "blank-page",
        "warning",
        "a page shows neither its own content nor a block in `content`",
        "Its layout does not show what was written, and nothing stands there instead.",
        "Put blocks into `blocks.content`, or choose another layout.",
        layouts.blank_page,
    )
    yield on.of_setting(
        "idle-look",
        "note",
        "a look is set where no sidebar stands",
        "It does nothing there.",
        "Take it away, or give the pages a sidebar.",
        layouts.idle_look,
    )


def _access() -> Iterator[Kind]:
    on = _Topic("access")
    yield on.of_site(
        "nobody-may-edit",
        "error",
        "no one but an admin may edit a page",
        "Mistakes on it stay until an admin has time.",
        "Give edit to someone there.",
        access.nobody_may_edit,
    )
    yield on.of_site(
        "edit-without-view",
        "warning",
        "someone may edit a page that they may not view",
        "No action brings another with it: they cannot open what they are to change.",
        "Give view too, or take edit away.",
        access.edit_without_view,
    )
    yield on.of_site(
        "open-below-closed",
        "error",
        "anyone may view a page below a closed one",
        "Whoever closed the branch believes that all of it is closed.",
        "Take view from everyone there, or open the page above.",
        access.open_below_closed,
    )
    yield on.of_site(
        "unreachable-grant",
        "warning",
        "someone may view or edit a page, and may not view one above it",
        "No menu leads them there; they need the address.",
        "Let them view the page above, or take the grant away.",
        access.unreachable_grant,
    )
    yield on.of_site(
        "reset-by-fresh",
        "note",
        "a fresh_access drops what people or groups had (a warning where it drops a deny)",
        "`fresh_access` lets nothing from weaker scopes through. What its own scope does not say again is gone.",
        "Say it again in that scope, or leave it if it should be gone.",
        access.reset_by_fresh,
    )
    yield on.of_setting(
        "drops-actions",
        "note",
        "a plain list takes away an action that weaker scopes gave",
        "A plain list replaces. Often `{add: […]}` was meant.",
        "Write `{add: […]}`, or leave it if the action should go.",
        access.drops_actions,
    )
    yield on.of_setting(
        "owner-gone",
        "warning",
        "a page's owner or group is not known",
        "What is given to `owner` is given to nobody there.",
        "Name another owner, or declare the person.",
        access.owner_gone,
    )
    yield on.of_site(
        "group-empty",
        "note",
        "a group that covers nobody is named in an access statement",
        "The statement gives nothing to anyone.",
        "Put people into the group, or take it away.",
        access.group_empty,
    )
    yield on.of_site(
        "person-beside-group",
        "note",
        "one scope names a person and a group they are in, with different actions",
        "Both hold together, which is seldom what the shorter of the two was meant for.",
        "Take the person's away, or take the person out of the group.",
        access.person_beside_group,
    )


def _sitemap() -> Iterator[Kind]:
    on = _Topic("sitemap")
    yield on.of_site(
        "listed-but-unlinked",
        "note",
        "a page is in the sitemap, and nothing on the site leads to it",
        "Search engines are sent to a page that readers cannot find. Sometimes that is meant, as for a campaign.",
        "Link it, leave it out (`sitemap.include: no`), or accept it.",
        structure.listed_but_unlinked,
    )
    yield on.of_site(
        "private-with-priority",
        "warning",
        "a page that no visitor may view has a priority of its own",
        "Somebody means it to be found; no search engine can.",
        "Take the priority away, or open the page.",
        sitemap.private_with_priority,
    )
    yield on.of_site(
        "noindex-with-priority",
        "warning",
        "a page that search engines may not index has a priority of its own",
        "One of the two was forgotten.",
        "Take the priority away, or set `robots.index` to yes.",
        sitemap.noindex_with_priority,
    )
    yield on.of_site(
        "left-out-by-priority",
        "note",
        "the priority alone keeps a page out of the sitemap",
        "A page that is worth little is still listed by default; under `priority_under` it is not.",
        "Raise the priority, or say `sitemap.include: no` if it should not be found.",
        sitemap.left_out_by_priority,
    )
    yield on.of_site(
        "one-priority",
        "note",
        "all pages in the sitemap have the same priority",
        "Priorities tell pages of one site apart. If all are the same, they tell nothing.",
        "Let them fall with depth, or set them to none.",
        sitemap.one_priority,
    )
    yield on.of_site(
        "child-above-parent",
        "note",
        "a page's priority is higher than that of the page above",
        "Often it is meant. Often the page above was forgotten.",
        "Raise the page above, or leave it.",
        sitemap.child_above_parent,
    )
    yield on.of_site(
        "sitemap-stale",
        "warning",
        "the sitemap written last is not what would be written now, or is older than sitemap.max_age",
        "Search engines go by what they are given: they miss what is new, and look for what is gone.",
        "Write it again, each time the site is published: `davlo sitemap --to FILE`.",
        sitemap.sitemap_stale,
    )
    yield on.of_site(
        "bad-alternate",
        "warning",
        "a translation names a page that is not there, not in the first language, or translated already",
        "Search engines are told the wrong page, or none, for readers of a language.",
        "Mend the column `translates`.",
        sitemap.bad_alternate,
    )
    yield Kind(
        "promise-broken",
        "error",
        "promises",
        "a promise does not hold",
        "Somebody said that it must.",
        "Change the statement that breaks it, or give the promise an `except`.",
        promises.promise_broken,
    )


TOPICS = ("decisions", "structure", "titles", "layouts", "access", "sitemap", "promises")
KINDS = (*_decisions(), *_structure(), *_titles(), *_layouts(), *_access(), *_sitemap())
