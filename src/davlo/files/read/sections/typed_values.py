"""Values as somebody types them, for one setting: words, lists with commas, mappings as YAML writes them."""

from __future__ import annotations

import yaml

from davlo.core.faults import ValueFault
from davlo.core.site.settings.parse_values import typed_items
from davlo.core.site.settings.setting import Setting
from davlo.core.site.settings.values import Raw


def read_typed(setting: Setting, text: str) -> Raw:
    """What somebody typed, as a file would hold it.

    Between the items of a list stand commas, or semicolons where an item holds a comma.

    Raises ValueFault if a mapping or a list in brackets cannot be read.

    Example
    -------
    >>> from davlo.core.site.settings.setting import Setting
    >>> read_typed(Setting("blocks.content", "list", ()), "offer, search"), read_typed(Setting("a", "text", ""), "x, y")
    (['offer', 'search'], 'x, y')
    >>> read_typed(Setting("sitemap.priority", "number", 0.5), "{by_depth: {top: 1, step: 0.2, floor: 0.2}}")
    {'by_depth': {'top': '1', 'step': '0.2', 'floor': '0.2'}}
    """
    if (setting.kind == "list" and text[:1] in "{[" and text) or (setting.kind == "number" and text.startswith("{")):
        try:
            found: Raw = yaml.load(text, Loader=yaml.BaseLoader)
        except RecursionError:
            raise ValueFault(f"{setting.name}: the brackets are nested too deep") from None
        except yaml.YAMLError:
            raise ValueFault(f"{setting.name}: a bracket is missing in {text!r}") from None
        return found
    if setting.kind != "list":
        return text or "<empty>"
    if text == "none" or (text.startswith("<") and text.endswith(">")):
        return "none" if text == "<empty>" else text
    return [*typed_items(text)]
