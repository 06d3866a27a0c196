"""Draws docs/performance.png from what was measured last.

python -m benchmarks.plot
"""

from __future__ import annotations

import matplotlib as mpl

mpl.use("Agg")
import matplotlib.pyplot as plt

from benchmarks.results import load

PAGES = 1_000_000
BARS = {
    "floor": "the floor",
    "export --to out.parquet": "davlo export --to out.parquet",
    "why / sidebar.right": "davlo why",
    "show /": "davlo show",
    "check": "davlo check",
    "sql": "by hand: DuckDB",
    "frames": "by hand: pandas",
    "dictionaries": "by hand: dictionaries",
}


def draw(to: str) -> None:
    """Two panels: whole processes against the floor, and how resolving grows."""
    results = load()
    figure, (bars, lines) = plt.subplots(1, 2, figsize=(11, 4.4), width_ratios=(3, 2), layout="constrained")
    shown = [(label, results[f"{name} {PAGES}"]) for name, label in BARS.items() if f"{name} {PAGES}" in results]
    for place, (label, figures) in enumerate(shown[::-1]):
        mine = label.startswith("davlo")
        color, hatch = ("#1b6e53", "") if mine else ("#b9b4a7", "//" if label.startswith("by hand") else "")
        bars.barh(place, figures["x floor"], color=color, hatch=hatch, edgecolor="white")
        told = f"{figures['seconds']:.1f} s, {figures['MB']:,.0f} MB"
        bars.text(figures["x floor"] * 1.06, place, told, va="center", fontsize=9)
    bars.set_yticks(range(len(shown)), [label for label, _ in shown[::-1]])
    bars.set_xscale("log")
    bars.set_xlim(0.5, max(figures["x floor"] for _, figures in shown) * 5)
    bars.set_xlabel("times the floor (logarithmic)")
    bars.set_title(f"Whole processes, {PAGES:,} pages, 24 settings", loc="left", fontsize=11)
    growth = results["growth"]
    sizes = [int(pages) for pages in growth]
    lines.plot(sizes, list(growth.values()), marker="o", color="#1b6e53")
    for pages, each in zip(sizes, growth.values(), strict=True):
        lines.annotate(f"{each:.1f}", (pages, each), textcoords="offset points", xytext=(6, 7), fontsize=9)
    lines.set_xscale("log")
    lines.set_ylim(0, max(growth.values()) * 1.2)
    lines.set_xlim(min(sizes) * 0.7, max(sizes) * 2.2)
    lines.set_xlabel("pages")
    lines.set_ylabel("ns a page and setting")
    lines.set_title("Resolving, as sites grow", loc="left", fontsize=11)
    for axes in (bars, lines):
        axes.spines[["top", "right"]].set_visible(False)
    figure.savefig(to, dpi=110)


if __name__ == "__main__":
    draw("docs/performance.png")
    print("wrote docs/performance.png")
