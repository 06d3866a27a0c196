"""The keys of estate.yaml, and of the files that its sites share."""

from __future__ import annotations

from .davlo_yaml import DAVLO_YAML, TYPE
from .shapes import Entries, Field, Fields, Text, Word, Words

ESTATE = Fields({"name": Field(Text(), "what the estate is called", "name: Quillmere gardens")}, ("name",))
ESTATE_YAML = Fields(
    {
        "davlo": Field(Word(("1",)), "the version of the format", "davlo: 1"),
        "estate": Field(ESTATE, "the estate as a whole", "estate: {name: Quillmere gardens}"),
        "sites": Field(
            Words(Text()),
            "folders of its sites, below this one; * stands for any letters within one name",
            'sites: [garden, "branches/*"]',
        ),
        "shared": Field(
            Words(Text()),
            "files with declarations and defaults that every site begins with",
            "shared: [house-style.yaml]",
        ),
    },
    ("davlo", "estate", "sites"),
)
"""The whole of estate.yaml."""
SHARED_SECTIONS = (
    *("everywhere", "settings", "presets", "types", "layouts", "themes", "sidebars", "looks", "bands", "blocks"),
    *("people", "roles", "actions"),
)
"""The sections of davlo.yaml that a shared file may have: declarations, and what every page of every site gets."""
_TYPE = Fields({key: field for key, field in TYPE.fields.items() if key != "give"})
SHARED_YAML = Fields(
    {key: DAVLO_YAML.fields[key] for key in SHARED_SECTIONS}
    | {"types": DAVLO_YAML.fields["types"]._replace(shape=Entries(_TYPE, "type"))}
)
"""A shared file. Its types give nothing: each site says what their pages get."""
