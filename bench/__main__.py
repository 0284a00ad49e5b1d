"""Run every measurement, or those that are named: `make bench`, `python -m bench compose proofs`."""

import sys

from bench import (
    audience,
    compose,
    delivery,
    demo,
    forecast,
    letters,
    million,
    proofs,
    queue,
    run,
    signing,
    smtp,
    tracking,
    typing,
)

for measure in (
    compose,
    proofs,
    letters,
    typing,
    forecast,
    signing,
    smtp,
    delivery,
    tracking,
    demo,
    million,
    audience,
    run,
    queue,
):
    if not sys.argv[1:] or measure.__name__.rpartition(".")[2] in sys.argv[1:]:
        measure.main()
