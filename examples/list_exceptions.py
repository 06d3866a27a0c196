"""The exceptions of each setting, and how many of them give no reason; what a new page would get.

python examples/list_exceptions.py [SITE-FOLDER]
"""

from __future__ import annotations

import sys

import davlo


def main(folder: str | None) -> None:
    """Print a line a setting, then a line for each setting of a page that is not there yet."""
    site = davlo.open_site(folder) if folder else davlo.open_demo()
    effective = site.resolve()
    for name in site.catalogue.names():
        found = effective.exceptions(name).records()
        if found:
            silent = [one.path for one in found if not one.because and one.source.scope == "here"]
            more = " …" if len(silent) > 3 else ""
            told = f"; no reason is given on {', '.join(silent[:3])}{more}" if silent else ""
            print(f"{name:20} {len(found):3} of {len(effective)} pages are exceptions{told}")
    page = site.new_page("/visit/picnic", type="event", title="Picnic")
    print(f"\nA new event under {page.parent} would get:")
    for setting in page.said():
        print(f"  {setting.name:18} from {setting.source}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else None)
