"""Run the command line with ``python -m onomaxis``."""

from onomaxis.cli.main import run

if __name__ == "__main__":
    run()
