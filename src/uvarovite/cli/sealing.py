"""The command that changes the key which secrets are sealed with."""

import typer

from uvarovite.cli.app import FAILED, WRONG, app, end
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.organisation.sealing import seal_everything_anew


@app.command()
def seal_anew(
    before: str = typer.Option(
        "",
        envvar="UVAROVITE_SEALING_KEY_BEFORE",
        help="The key of before; not given, UVAROVITE_SECRET_KEY. Better in the environment than on a command line.",
    ),
) -> None:
    """Seal stored passwords and signing keys with UVAROVITE_SEALING_KEY, which is a new one. Then restart all processes."""
    with installation() as (settings, database):
        if not settings.sealing_key.get_secret_value():
            end(WRONG, "Set UVAROVITE_SEALING_KEY to the new key: at least 16 random characters, for every process.")
        key_before = before.encode() or settings.secret()
        done = seal_everything_anew(database, SYSTEM, before=key_before, secret=settings.sealing())
    print(f"{done.sealed} secrets are sealed with the new key. Restart the web servers and workers.")
    for one in done.lost:
        print(f"Neither key opens {one}: it has to be entered again.")
    if done.lost:
        raise typer.Exit(FAILED)
