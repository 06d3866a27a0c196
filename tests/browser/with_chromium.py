"""Runs a command with Debian's Chromium, which is installed where it is missing (that takes root).

    python -m tests.browser.with_chromium COMMAND…

The command finds the program in DAVLO_TEST_CHROMIUM. Ends with the command's exit status, or 3 where there is none.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys


def install() -> None:
    """Install Debian's Chromium."""
    print("== installing Chromium from Debian's packages", flush=True)
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for words in (
        ["update", "-qq"],
        ["install", "-qq", "-y", "--no-install-recommends", "chromium", "fonts-dejavu-core"],
    ):
        subprocess.run(["apt-get", *words], check=True, env=quiet, stdout=subprocess.DEVNULL)


def main(command: list[str]) -> int:
    """Install the program if it is missing, and run the command."""
    try:
        if shutil.which("chromium") is None:
            install()
    except (OSError, subprocess.CalledProcessError) as error:
        print(f"there is no Chromium to test with: {error}", file=sys.stderr)
        return 3
    program = shutil.which("chromium")
    if program is None:
        print("there is no Chromium to test with", file=sys.stderr)
        return 3
    return subprocess.run(command, env={**os.environ, "DAVLO_TEST_CHROMIUM": program}).returncode


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
