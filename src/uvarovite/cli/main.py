"""`uvarovite`: every command in one place."""

from uvarovite.cli.app import app

__all__ = ["app"]

if __name__ == "__main__":
    app()
