"""Paper: a Matplotlib figure on which boxes and lines of words are put, in points from the top left corner down."""

from __future__ import annotations

from pathlib import Path

import matplotlib as mpl
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from .ink import BLACK, Ink
from .lettering import DPI, LEADING, SMALLEST, drawable, font

WIDTH, HEIGHT = 1280 * 72 / DPI, 800 * 72 / DPI
"""The usual size, in points: 1280 by 800 pixels."""


class Paper:
    """A sheet that grows downwards."""

    def __init__(self, width: float = WIDTH) -> None:
        with mpl.rc_context():
            mpl.rcdefaults()  # whatever a matplotlibrc says
            self.figure = Figure(figsize=(width / 72, HEIGHT / 72), dpi=DPI, facecolor="white")
            FigureCanvasAgg(self.figure)
            self.axes = self.figure.add_axes((0, 0, 1, 1))
        self.width = width
        self.axes.set_axis_off()
        self.end_at(HEIGHT)

    def end_at(self, height: float) -> None:
        """The sheet is so high."""
        self.figure.set_size_inches(self.width / 72, height / 72)
        self.axes.set_xlim(0, self.width)
        self.axes.set_ylim(height, 0)

    def box(
        self,
        x: float,
        y: float,
        width: float,
        height: float,
        fill: str = "none",
        edge: str = "none",
        line: str = "-",
        weight: float = 0.6,
        name: str = "",
    ) -> None:
        """A rectangle; `name` is what it can be found by."""
        patch = Rectangle((x, y), width, height, facecolor=fill, edgecolor=edge, linestyle=line, linewidth=weight)
        patch.set_gid(name or None)
        self.axes.add_artist(patch)

    def inked(self, x: float, y: float, width: float, height: float, ink: Ink, edge: str = BLACK) -> None:
        """A rectangle in an ink, with its hatch."""
        patch = Rectangle((x, y), width, height, facecolor=ink.color, edgecolor=ink.hatch_color, linewidth=0)
        if ink.hatch:
            patch.set_hatch(ink.hatch)
        self.axes.add_artist(patch)
        if edge != "none":
            self.box(x, y, width, height, edge=edge, weight=0.5)

    def words(
        self, x: float, y: float, text: str, size: float, face: str = "plain", color: str = BLACK, name: str = ""
    ) -> float:
        """A line of words, its top at `y`; where the next line begins. Nothing in them is obeyed."""
        assert size >= SMALLEST
        if text:
            drawn = self.axes.text(
                x,
                y + size,
                drawable(text, face),
                color=color,
                fontproperties=font(drawable(text, face), face, size),
                va="baseline",
                parse_math=False,
            )
            drawn.set_gid(name or None)
        return y + size * LEADING


def write_figure(figure: Figure, path: Path, ending: str) -> None:
    """Write a figure to a file: `.png`, `.svg` or `.pdf`. The same figure gives the same bytes."""
    dates = {".svg": {"Date": None}, ".pdf": {"CreationDate": None}}
    with mpl.rc_context():
        mpl.rcdefaults()
        mpl.rcParams.update({"svg.hashsalt": "davlo", "pdf.fonttype": 42})
        figure.savefig(path, format=ending[1:], dpi=DPI, metadata=dates.get(ending))
