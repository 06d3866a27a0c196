"""Paper: a Matplotlib figure for boxes and lines of words, in points from the top left corner."""

from __future__ import annotations

import pathlib
from collections.abc import Sequence
from typing import Any

import matplotlib as mpl
from matplotlib.backend_bases import RendererBase
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch, Rectangle
from matplotlib.path import Path

from .ink import BLACK, Ink
from .lettering import DPI, LEADING, SMALLEST, as_measured, drawable, font

Place = tuple[float, float, float, float]
"""The left and the upper edge of a rectangle, its width and its height."""

WIDTH, HEIGHT = 1280 * 72 / DPI, 800 * 72 / DPI
"""The usual size, in points: 1280 by 800 pixels."""


class Sheet(Figure):
    """A figure whose letters are drawn as they were measured, whatever a matplotlibrc says."""

    def draw(self, renderer: RendererBase) -> None:
        with as_measured():
            super().draw(renderer)


class Paper:
    """A sheet that grows downwards."""

    def __init__(self, width: float = WIDTH) -> None:
        with mpl.rc_context():
            mpl.rcdefaults()  # whatever a matplotlibrc says
            self.figure = Sheet(figsize=(width / 72, HEIGHT / 72), dpi=DPI, facecolor="white")
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

    def boxes(self, places: Sequence[Place], fill: str, edge: str, weight: float) -> None:
        """Many rectangles that look the same, drawn together."""
        self._together(places, facecolor=fill, edgecolor=edge, linewidth=weight)

    def inked_boxes(self, places: Sequence[Place], ink: Ink) -> None:
        """Many rectangles in one ink, without an edge, drawn together."""
        self._together(places, facecolor=ink.color, edgecolor=ink.hatch_color, linewidth=0, hatch=ink.hatch or None)

    def _together(self, places: Sequence[Place], **looks: Any) -> None:
        corners = [
            corner
            for x, y, width, height in places
            for corner in ((x, y), (x + width, y), (x + width, y + height), (x, y + height), (x, y))
        ]
        one = [Path.MOVETO, Path.LINETO, Path.LINETO, Path.LINETO, Path.CLOSEPOLY]
        if corners:
            self.axes.add_artist(PathPatch(Path(corners, one * len(places)), **looks))

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
        """Draw a line of words with its top at `y`; return where the next line begins.

        The words are not interpreted.
        """
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


def write_figure(figure: Figure, path: pathlib.Path, ending: str) -> None:
    """Write a figure to a file: `.png`, `.svg` or `.pdf`. The same figure gives the same bytes."""
    dates = {".svg": {"Date": None}, ".pdf": {"CreationDate": None}}
    with mpl.rc_context():
        mpl.rcdefaults()
        mpl.rcParams.update({"svg.hashsalt": "davlo", "pdf.fonttype": 42})
        figure.savefig(path, format=ending[1:], dpi=DPI, metadata=dates.get(ending))
