"""`python -m davlo` is the command `davlo`."""

import os
import sys

if sys.argv[:1] == [__file__] and not sys.flags.safe_path:
    above = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
    sys.path[:1] = [above] if sys.path[0] == above else []  # no module that lies in the site folder is imported

from davlo.cli.main import run

if __name__ == "__main__":
    run()
