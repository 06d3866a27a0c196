"""What condensing takes, as a multiple of resolving every setting once.

    python -m benchmarks.condense [--pages 1000000] [--rounds 5]

The site has 24 settings in use and some 160,000 statements, most of which were drawn by chance: of the statements of a
setting up to half can go. All in one process; in each round both run once, in turn.
"""

from __future__ import annotations

import argparse

import davlo
from benchmarks.changes import timed
from benchmarks.questions import asked_site
from davlo.core.resolve.effective import EffectiveModel


def main(pages: int, rounds: int) -> None:
    """Print what was measured."""
    site = davlo.open_site(asked_site(pages))
    assert site.scope_pages  # made with the first question; not counted

    def resolve() -> None:
        effective = EffectiveModel(site)
        for number in range(len(site.catalogue)):
            effective.resolved(number)

    resolve()
    found = timed(rounds, {"resolving": resolve, "condensing": site.condense})
    whole = site.condense()
    before, after = (sum(getattr(one, name) for one in whole.settings) for name in ("before", "after"))
    ratio = found["condensing"] / found["resolving"]
    print(f"{pages:,} pages, {len(site.statements):,} statements; of {before:,}, {after:,} are left")
    print(
        f"resolving every setting once {found['resolving']:.3f} s; condensing {found['condensing']:.2f} s: {ratio:.1f}"
    )


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=5)
    asked = parser.parse_args()
    main(asked.pages, asked.rounds)
