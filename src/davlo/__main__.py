"""`python -m davlo` is the command `davlo`."""

from davlo.cli.main import run

if __name__ == "__main__":
    run()
