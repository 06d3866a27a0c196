"""What was measured, kept in build/bench/results.json, so that the plot draws what the tables tell."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path

FOLDER = Path("build/bench")
FILE = FOLDER / "results.json"


def load() -> dict[str, dict[str, float]]:
    """All that was measured, the last of each."""
    return json.loads(FILE.read_text()) if FILE.exists() else {}


def keep(name: str, figures: Mapping[str, object]) -> None:
    """Keep figures under a name, in the place of earlier ones."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    FILE.write_text(json.dumps({**load(), name: figures}, indent=1))
