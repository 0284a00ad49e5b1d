"""`uvarovite`: every command in one place."""

from uvarovite.cli import accounts, counting, data, processes, rendering, runs
from uvarovite.cli.app import app

__all__ = ["accounts", "app", "counting", "data", "processes", "rendering", "runs"]

if __name__ == "__main__":
    app()
