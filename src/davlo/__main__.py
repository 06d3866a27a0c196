"""`python -m davlo` is the command `davlo`."""

import os
import sys

if (
    sys.argv[:1] == [__file__]
    and not sys.flags.safe_path
    and sys.path[0] != os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
):
    del sys.path[0]  # no module that lies in the site folder is imported

from davlo.cli.main import run

if __name__ == "__main__":
    run()
