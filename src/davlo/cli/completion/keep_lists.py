"""Makes the lists that the shell completes from, at the side: `commands`, or `names` or `findings` FOLDER."""

from __future__ import annotations

import sys
from pathlib import Path

from ..main import cli
from .known_commands import write_commands
from .name_list import write_names

if __name__ == "__main__":
    match sys.argv[1:]:
        case ["commands"]:
            write_commands(cli)
        case ["names" | "findings" as part, folder]:
            write_names(Path(folder), part)
