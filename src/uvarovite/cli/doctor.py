"""The command that looks at the whole installation."""

import typer

from uvarovite.bootstrap.doctor import examine
from uvarovite.cli.app import FAILED, app, show
from uvarovite.cli.installation import installation
from uvarovite.core.delivery.alignment import Standing

_MARKS = {Standing.WELL: "ok", Standing.ADVICE: "!", Standing.WRONG: "WRONG"}


@app.command()
def doctor(as_json: bool = typer.Option(False, "--json", help="For scripts.")) -> None:
    """Look at everything that this installation needs, and say what is wrong with it. Nothing is changed or sent."""
    with installation() as (settings, database):
        found = []
        for one in examine(settings, database):
            found.append(one)
            if not as_json:
                print(f"{_MARKS[one.standing]:6} {one.part}: {one.words}", flush=True)
    wrong = sum(one.standing is Standing.WRONG for one in found)
    told = {"parts": [{"part": one.part, "standing": one.standing.value, "words": one.words} for one in found]}
    words = f"{wrong} of {len(found)} parts are wrong." if wrong else "Nothing is wrong."
    show(told, as_json=as_json, words=words)
    if wrong:
        raise typer.Exit(FAILED)
