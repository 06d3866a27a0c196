"""The keys that `davlo declare` takes for each kind: those of davlo.yaml, and of kinds that it holds as lists."""

from __future__ import annotations

from collections.abc import Mapping

from .davlo_yaml import DAVLO_YAML, DECLARED, GUARANTEE, LEAVE_OUT, MENU, SITE, SITEMAP, TOLD, VIEWPOINT
from .shapes import Entries, Field, Fields, Flag, NameOf, Text, Words

PERSON = Fields({"admin": Field(Flag(), "whether this person may do everything", "admin: yes")})
GROUP = Fields(
    {"members": Field(Words(NameOf(("person", "group"))), "its people, and groups in it", "members: [ida.marsh]")}
)
ROLE = Fields({"actions": Field(Words(NameOf(("action",))), "its actions", "actions: [view, edit]")}, ("actions",))
PRESET = Fields(TOLD)
SITE_KEYS = ("name", "url", "home", "languages", "language_paths", "for_other_languages")
"""The keys of `site` that can be typed."""
HOW_TO_READ = ("index", "page_list", "values")
"""The keys of `site` that say how the files are read. No command changes them."""
SITE_WORDS = Fields(
    {
        **{key: SITE.fields[key] for key in SITE_KEYS},
        **{f"menu.{key}": field for key, field in MENU.fields.items()},
        **{f"sitemap.{key}": field for key, field in LEAVE_OUT.fields.items()},
        **{f"sitemap.{key}": SITEMAP.fields[key] for key in ("stale_after_days", "add_addresses_from")},
        **{key: DAVLO_YAML.fields[key] for key in ("actions", "robots")},
        "ownership_proofs.file": Field(
            Entries(Text(), "file"),
            "a file that proves to search engines who owns the site, and what it holds",
            "ownership_proofs: [{file: quillmere-5d1c0a9e.txt, text: quillmere-5d1c0a9e}]",
        ),
        "ownership_proofs.tag": Field(
            Entries(Text(), "tag"),
            "a tag in the head of the home page that proves it, and its content",
            "ownership_proofs: [{tag: quillmere-proof, text: 9b41f6e2}]",
        ),
    }
)
"""The keys of the site itself that can be typed, those that stand in another by their whole names."""
FORMS: Mapping[str, Fields] = {
    **{kind: DECLARED[kind] for kind in ("layout", "theme", "sidebar", "look", "band", "block")},
    "preset": PRESET,
    "type": Fields({key: field for key, field in DECLARED["type"].fields.items() if key != "give"}),
    "setting": DECLARED["setting"],
    "rule": Fields({"note": TOLD["note"]}),
    "guarantee": Fields({key: GUARANTEE.fields[key] for key in ("has", "may", "may_not")}),
    **{"person": PERSON, "group": GROUP, "role": ROLE},
    "viewpoint": Fields({"as": VIEWPOINT.fields["as"]}),
    "site": SITE_WORDS,
}
"""The keys of each kind that can be typed, in the order in which kinds are listed."""
