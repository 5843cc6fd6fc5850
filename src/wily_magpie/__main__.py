"""`python -m wily_magpie`, and the command wily-magpie."""

import sys

from wily_magpie.app import main as run


def main() -> None:
    """Runs the program."""
    sys.exit(run())


if __name__ == "__main__":
    main()
