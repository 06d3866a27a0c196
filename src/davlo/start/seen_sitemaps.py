"""What a sitemap shows of a site: its addresses, when they changed, how important they are, and in which languages."""

from __future__ import annotations

from davlo.core.outcomes.sitemap.addresses import is_web_address
from davlo.files.built.sitemap_files import Sitemaps

from .languages import translations
from .seen_site import UNSAID, Remark, Seen, SeenSite, most_common, origin


def seen_in_sitemaps(sitemaps: Sitemaps, label: str) -> SeenSite:
    """What a sitemap and those that it lists show."""
    found = [one for one in sitemaps.addresses if is_web_address(one.loc)]
    url = most_common(origin(one.loc) for one in found)
    lost = []
    if len(found) < len(sitemaps.addresses):
        other = next(one for one in sitemaps.addresses if not is_web_address(one.loc))
        what = f"{label} lists addresses that are none, which are left out"
        lost.append(Remark(what, len(sitemaps.addresses) - len(found), other.loc))
    if sitemaps.missing:
        files = f"{label} lists sitemaps that are not beside it, which are not read: {len(sitemaps.missing)}"
        lost.append(Remark(files, 0, sitemaps.missing[0]))
    spoken = translations([one.loc for one in found], [one.alternates for one in found], [""] * len(found))
    values: dict[str, list[Seen]] = {
        "sitemap.priority": [one.priority or UNSAID for one in found],
        "sitemap.changefreq": [one.changefreq.lower() or UNSAID for one in found],
        "sitemap.include": ["yes"] * len(found),
    }
    details = {"modified": [one.lastmod for one in found], "language": spoken.language, "translates": spoken.translates}
    return SeenSite(
        [one.loc for one in found],
        {name: texts for name, texts in details.items() if any(texts)},
        {name: seen for name, seen in values.items() if any(seen)},
        spoken.declared,
        url,
        languages=spoken.languages,
        guessed=spoken.guessed,
        lost=tuple(lost),
    )
